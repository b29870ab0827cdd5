"use strict";
// Looks up what was decided before: which set of states a state is in, and what keys do there. It decides nothing itself.
(() => {
  const data = JSON.parse(document.getElementById("data").textContent);
  const made = data.decisions;
  const named = (fields, row) => Object.fromEntries(fields.map((name, index) => [name, row[index]]));
  for (const [keys, rows] of Object.entries(made.triggers)) made.triggers[keys] = rows.map((row) => named(data.fields[0], row));
  const element = (name) => document.getElementById(name);
  const make = (name, text = "", kind = "") => {
    const one = document.createElement(name);
    one.textContent = text;
    if (kind) one.className = kind;
    return one;
  };

  // --- deciding

  /** Whether a state (a number of a value for each fact) is in a set. */
  const holds = (set, state) => {
    while (set > 1) {
      const [fact, branches, other] = made.sets[set - 2];
      const value = state[fact];
      const branch = branches.find((one) => one[0] === value);
      set = branch === undefined ? other : branch[1];
    }
    return set === 1;
  };
  const rowOf = (keys, state) => (made.triggers[keys] || []).find((row) => holds(row.states, state));
  const longer = (keys, state) =>
    Object.keys(made.triggers)
      .filter((one) => one.startsWith(`${keys} `))
      .map((one) => [one, rowOf(one, state)])
      .filter(([, row]) => row !== undefined && row.kind !== "nothing");

  /** What keys (chords with blanks between) do in a state, pressed from rest: see `ombix what`. */
  const decide = (keys, state) => {
    const chords = keys.split(" ");
    if (made.prefix === "fires") {
      for (let length = 1; length < chords.length; length += 1) {
        const row = rowOf(chords.slice(0, length).join(" "), state);
        if (row !== undefined && row.kind !== "nothing") return { kind: "runs", row, before: true, follows: [] };
      }
    }
    const row = rowOf(keys, state);
    const fires = made.prefix === "fires" && row !== undefined && row.kind !== "nothing";
    const follows = fires ? [] : longer(keys, state);
    if (follows.length) return { kind: "waits", row, follows };
    if (row !== undefined) return { kind: row.kind === "nothing" ? "nothing" : "runs", row, follows };
    const isTyped = made.types && chords.length === 1 && isCharacter(chords[0]) && holds(made.typing, state);
    return { kind: isTyped ? "types" : "free", row, follows };
  };
  const isCharacter = (chord) => {
    const [modifiers, key] = parts(chord);
    return (modifiers === 0 || modifiers === made.modifiers.Shift) && ([...key].length === 1 || key === "Space");
  };
  const parts = (chord) => {
    const at = chord.indexOf(":");
    return [Number(chord.slice(0, at)), chord.slice(at + 1)];
  };
  const shown = (keys) =>
    made.shown[keys] ||
    keys
      .split(" ")
      .map((chord) => {
        const [modifiers, key] = parts(chord);
        const held = Object.entries(made.modifiers).filter(([, bit]) => modifiers & bit).map(([name]) => name);
        return [...held, held.length && [...key].length === 1 ? key.toUpperCase() : key].join("+");
      })
      .join(" ");

  // --- the state

  const state = [...made.state];
  const fieldset = element("facts");
  for (const fact of made.facts) {
    const label = make("label", fact.title);
    const select = make("select");
    select.name = fact.name;
    for (const [number, value] of fact.values) {
      const option = make("option", value);
      option.value = String(number);
      option.selected = number === fact.first;
      select.append(option);
    }
    select.addEventListener("change", () => {
      state[fact.number] = Number(select.value);
      show(pending);
    });
    label.append(select);
    fieldset.append(label);
  }

  // --- keys

  const NAMES = { " ": "Space", Esc: "Escape", Del: "Delete", Left: "ArrowLeft", Right: "ArrowRight", Up: "ArrowUp", Down: "ArrowDown" };
  const ALONE = ["Control", "Shift", "Alt", "Meta", "AltGraph", "OS", "CapsLock", "NumLock", "Dead", "Process", "Unidentified"];
  /** The chord of a key that goes down, or nothing for a modifier by itself. */
  const chordOf = (event) => {
    if (ALONE.includes(event.key) || event.isComposing) return "";
    const third = event.getModifierState && event.getModifierState("AltGraph");
    let key = NAMES[event.key] || event.key;
    if (data.platform === "mac" && event.altKey && /^(Key|Digit)/.test(event.code)) key = event.code.replace(/^(Key|Digit)/, "");
    const isLetter = [...key].length === 1 && key.toLowerCase() !== key.toUpperCase();
    const isSign = [...key].length === 1 && !isLetter;
    let modifiers = 0;
    if (event.ctrlKey && !third) modifiers |= made.modifiers.Ctrl;
    if (event.altKey && !third) modifiers |= made.modifiers.Alt;
    if (event.metaKey) modifiers |= made.modifiers.Meta;
    if (event.shiftKey && !isSign) modifiers |= made.modifiers.Shift;
    return `${modifiers}:${isLetter ? key.toLowerCase() : key}`;
  };
  const isWayOut = (event) => event.key === "Tab" && !event.ctrlKey && !event.altKey && !event.metaKey;

  let pending = "";
  const pad = element("pad");
  pad.addEventListener("keydown", (event) => {
    if (isWayOut(event)) return;
    const chord = chordOf(event);
    if (!chord) return;
    event.preventDefault();
    const keys = pending && decide(pending, state).kind === "waits" ? `${pending} ${chord}` : chord;
    show(keys);
  });

  /** Show what keys do in the state at hand. */
  const show = (keys) => {
    pending = keys;
    const answer = element("answer");
    if (!keys) return;
    const found = decide(keys, state);
    const words = { runs: "", nothing: "taken away on purpose", types: "not bound: it is typed", free: "not bound", waits: "waits for more keys" };
    const lines = [make("p", shown(keys), "big")];
    const title = found.row ? found.row.title : "";
    lines.push(make("p", [title, words[found.kind]].filter(Boolean).join("; ") || "nothing"));
    if (found.row) {
      const { when, layer, place, why } = found.row;
      lines.push(make("p", `when ${when}`, "quiet"));
      lines.push(make("p", `from ${layer}, ${place}${why ? `: ${why}` : ""}`, "quiet"));
    }
    if (made.pressed[keys]) lines.push(make("p", `pressed as ${made.pressed[keys]}`, "quiet"));
    if (found.before) lines.push(make("p", "shorter keys run first", "quiet"));
    if (found.follows.length) {
      lines.push(make("p", "What may follow:"));
      const list = make("ul");
      for (const [one, row] of found.follows) list.append(make("li", `${shown(one)}: ${row.title}`));
      lines.push(list);
    }
    const others = (made.triggers[keys] || []).filter((row) => row !== found.row);
    if (others.length) {
      lines.push(make("p", "In other states:", "quiet"));
      const list = make("ul");
      for (const row of others) list.append(make("li", `${row.title}, when ${row.when}`));
      lines.push(list);
    }
    answer.replaceChildren(...lines);
  };
  const picked = element("picked");
  const byName = new Map(Object.entries(made.shown).map(([keys, name]) => [name.toLowerCase(), keys]));
  picked.addEventListener("input", () => {
    const keys = byName.get(picked.value.trim().toLowerCase());
    if (keys) show(keys);
  });
  for (const name of new Set(Object.values(made.shown))) {
    const option = make("option");
    option.value = name;
    element("all-keys").append(option);
  }
  // A link may name keys: keys.html#Ctrl+D
  const linked = () => {
    let name = "";
    try {
      name = decodeURIComponent(location.hash.slice(1)).toLowerCase();
    } catch {
      return;
    }
    if (byName.has(name)) show(byName.get(name));
  };
  addEventListener("hashchange", linked);
  linked();
  for (const button of document.querySelectorAll("#sheet button")) {
    button.type = "button";
    button.addEventListener("click", () => {
      show(byName.get(button.textContent.toLowerCase()));
      element("press").scrollIntoView();
      pad.focus({ preventScroll: true });
    });
  }

  // --- finding: as `ombix how` does it

  const search = data.search;
  const FILLERS = new Set(data.words.fillers);
  const BESIDES = new Set(data.words.besides);
  const LEAST = 34, NEAR = 0.75, MOST = 12;
  const wordsOf = (text) => text.toLowerCase().match(/[\p{L}\p{N}]+/gu) || [];
  const stemOf = (word) => {
    let one = word;
    if (one.length > 5) one = one.replaceAll("isation", "ization").replaceAll("ise", "ize");
    if (one.length > 4) one = one.replaceAll("our", "or");
    if (one.length > 4 && one.endsWith("tre")) one = `${one.slice(0, -2)}er`;
    for (const [ending, instead] of [["ies", "y"], ["sses", "ss"], ["ing", ""], ["ed", ""], ["es", "e"], ["s", ""]]) {
      if (one.endsWith(ending) && one.length - ending.length >= 3 && !one.endsWith("ss")) {
        one = one.slice(0, one.length - ending.length) + instead;
        if ((ending === "ing" || ending === "ed") && one.length > 3 && one.at(-1) === one.at(-2) && !"ls".includes(one.at(-1))) one = one.slice(0, -1);
        break;
      }
    }
    return one.length > 3 && one.endsWith("e") ? one.slice(0, -1) : one;
  };
  const stemsOf = (text) => {
    const words = wordsOf(text);
    let telling = words.filter((word) => !FILLERS.has(word));
    if (!telling.length) telling = words;
    const rest = telling.filter((word) => !BESIDES.has(word));
    return [...new Set((rest.length ? rest : telling).map(stemOf))];
  };
  const isNear = (one, other) => {
    const most = one.length >= 7 ? 2 : 1;
    if (Math.abs(one.length - other.length) > most || other.length < 3 || (one[0] !== other[0] && one.slice(1, 2) !== other.slice(1, 2))) return false;
    let before = [];
    let row = [...Array(other.length + 1).keys()];
    for (let at = 1; at <= one.length; at += 1) {
      const following = [at];
      for (let to = 1; to <= other.length; to += 1) {
        let cost = Math.min(row[to] + 1, following[to - 1] + 1, row[to - 1] + (one[at - 1] !== other[to - 1] ? 1 : 0));
        if (at > 1 && to > 1 && one[at - 1] === other[to - 2] && one[at - 2] === other[to - 1]) cost = Math.min(cost, before[to - 2] + 1);
        following.push(cost);
      }
      if (Math.min(...following) > most) return false;
      before = row;
      row = following;
    }
    return row.at(-1) <= most;
  };
  const known = Object.keys(search.postings);
  const has = (table, name) => Object.prototype.hasOwnProperty.call(table, name);
  const meant = (stem, isWord) => {
    const found = new Map();
    const isKnown = has(search.postings, stem);
    if (isKnown) found.set(stem, 1.0);
    for (const one of has(search.alike, stem) ? search.alike[stem] : []) if (!found.has(one)) found.set(one, 0.7);
    if (stem.length >= 2 && !isKnown) for (const one of known) if (!found.has(one) && one.startsWith(stem)) found.set(one, 0.75);
    if (!isKnown && !has(search.alike, stem) && isWord) for (const one of known) if (!found.has(one) && isNear(stem, one)) found.set(one, 0.7);
    return found;
  };
  const weight = (stem) => Math.log(1 + search.rows.length / Math.max(1, has(search.postings, stem) ? search.postings[stem].length : 0));

  /** The names of the actions that words describe, the best first. */
  const find = (wanted) => {
    const text = [...wanted].slice(0, 400).join("");
    const stems = stemsOf(text).slice(0, 24);
    if (!stems.length) return [];
    const short = new Set(wordsOf(text).filter((word) => word.length < 4).map(stemOf));
    const meanings = stems.map((stem) => [...meant(stem, !short.has(stem))]);
    const sure = stems.map((stem) => has(search.postings, stem) || has(search.alike, stem));
    const weights = meanings.map((some) => (some.length ? Math.max(...some.map(([one]) => weight(one))) : weight("")));
    const whole = weights.reduce((sum, one) => sum + one, 0);
    const asked = new Set(stems);
    const near = (words, held) => {
      let both = 0;
      let found = 0;
      held.forEach((inside, index) => {
        const how = Math.max(0, ...words.filter((one) => inside.has(one)).map((one) => inside.get(one)));
        both += how * weights[index];
        found += how ? weights[index] : 0;
      });
      if (!found) return 0;
      const rest = words.filter((one) => !held.some((inside) => inside.has(one))).reduce((sum, one) => sum + weight(one), 0);
      return both / Math.sqrt(whole * (found + rest));
    };
    const score = ([, phrases, sentence, , , losesWork]) => {
      const held = [];
      let covered = 0;
      let isGuessed = false;
      meanings.forEach((some, index) => {
        const inside = new Map(some.filter(([one]) => phrases.includes(` ${one} `)));
        let best = Math.max(0, ...inside.values());
        if (best < 0.7) best = Math.max(best, 0, ...some.filter(([one]) => sentence.includes(` ${one} `)).map(([, how]) => 0.62 * how));
        covered += weights[index] * best;
        isGuessed = isGuessed || (best > 0 && !sure[index]);
        held.push(inside);
      });
      if (!covered || (losesWork && isGuessed)) return 0;
      let bestPhrase = 0;
      let exactly = 0;
      const told = held.flatMap((inside) => [...inside.keys()].map((one) => ` ${one} `));
      const all = told.length ? phrases.replace(/^\|+|\|+$/g, "").split("|") : [];
      all.forEach((phrase, number) => {
        if (!told.some((padded) => phrase.includes(padded))) return;
        const words = phrase.split(/\s+/).filter(Boolean);
        const how = near(words, held);
        if (number === 0 && how > 0.99 && words.length === asked.size && words.every((one) => asked.has(one))) exactly = 3;
        bestPhrase = Math.max(bestPhrase, how * (number === 1 ? 0.97 : 1));
      });
      return 62 * bestPhrase + (38 * covered) / whole + exactly;
    };
    const parted = new Map();
    meanings.forEach((some, index) => {
      const here = new Set(some.flatMap(([one]) => (has(search.postings, one) ? search.postings[one] : [])));
      for (const number of here) parted.set(number, (parted.get(number) || 0) + weights[index]);
    });
    const scores = new Map();
    for (const [number, part] of parted) if (part >= 0.2 * whole) scores.set(number, score(search.rows[number]));
    const letters = wordsOf(wanted).join("");
    if (stems.length === 1 && letters.length >= 2 && letters.length <= 5) {
      search.rows.forEach((row, number) => {
        if (row[3].includes(` ${letters} `)) scores.set(number, Math.max(scores.get(number) || 0, 72));
      });
    }
    const scored = [...scores].filter(([, one]) => one >= LEAST).map(([number, one]) => [one + search.rows[number][4], search.rows[number][0]]);
    scored.sort((one, other) => other[0] - one[0] || (one[1] < other[1] ? -1 : 1));
    const found = scored.slice(0, MOST).filter(([one]) => one >= scored[0][0] * NEAR).map(([, name]) => name);
    const isNowhere = (name) => search.nowhere.includes(name);
    return [...found.filter((name) => !isNowhere(name)), ...found.filter(isNowhere)];
  };
  const asked = element("words");
  asked.addEventListener("input", () => {
    const rows = find(asked.value).map((name) => {
      const [title, does, keys] = search.actions[name];
      const row = make("tr");
      row.append(make("td", keys.join(", ") || "no keys", keys.length ? "" : "quiet"), make("td", title), make("td", does, "quiet"));
      return row;
    });
    element("found").replaceChildren(...rows);
    element("found-count").textContent = asked.value.trim() ? `${rows.length} found` : "";
  });

  // --- practice

  const questions = data.questions.map((row) => {
    const one = named(data.fields[1], row);
    return { ...one, state: data.states[one.state] };
  });
  let question = null;
  let tried = "";
  let rights = 0;
  let wrongs = 0;
  const weak = questions.map(() => 1);
  const say = (text, kind = "") => element("judged").replaceChildren(make("p", text, kind));
  const next = () => {
    if (!questions.length) return;
    let at = Math.random() * weak.reduce((sum, one) => sum + one, 0);
    let index = weak.findIndex((one) => (at -= one) < 0);
    if (index < 0) index = questions.length - 1;
    question = { ...questions[index], index };
    tried = "";
    const lines = [make("p", question.title, "big"), make("p", question.about)];
    if (question.when) lines.push(make("p", `when ${question.when}`, "quiet"));
    if (question.before) lines.push(make("p", `before: ${question.before.replaceAll("\n", "⏎")}`), make("p", `after: ${question.after.replaceAll("\n", "⏎")}`));
    element("question").replaceChildren(...lines);
    say("Press the keys.");
  };
  const judge = (isRight) => {
    weak[question.index] = isRight ? weak[question.index] / 2 : weak[question.index] + 2;
    if (isRight) rights += 1;
    else wrongs += 1;
    element("tally").textContent = `${rights} right, ${wrongs} not`;
  };
  element("practice-pad").addEventListener("keydown", (event) => {
    if (isWayOut(event) || !question) return;
    const chord = chordOf(event);
    if (!chord) return;
    event.preventDefault();
    tried = tried ? `${tried} ${chord}` : chord;
    const found = decide(tried, question.state);
    if (found.kind === "waits" && !question.keys.includes(tried)) {
      say(`${shown(tried)} …`);
      return;
    }
    const isRight = question.keys.includes(tried) || (found.row !== undefined && found.row.does === question.does);
    judge(isRight);
    if (isRight) {
      const said = `Right: ${shown(tried)}.`;
      next();
      say(`${said} Now the next one.`, "good");
    } else {
      say(`${shown(tried)} is not it: ${found.row ? found.row.title : "it is not bound"}. Once more.`, "bad");
      tried = "";
    }
  });
  element("begin").addEventListener("click", () => {
    next();
    element("practice-pad").focus();
  });
  element("reveal").addEventListener("click", () => {
    if (!question) return;
    judge(false);
    say(`It is ${question.shown.join(" or ")}.`);
  });

  // --- kept up to date, where it is served

  if (data.version) {
    const path = location.pathname.replace(/\/?$/, "/version");
    setInterval(async () => {
      const answer = await fetch(path, { cache: "no-store" }).catch(() => null);
      if (answer && answer.ok && (await answer.text()) !== data.version) location.reload();
    }, 1000);
  }

  // For the tests.
  Object.defineProperty(globalThis, "ombix", { value: Object.freeze({ decide, find, chordOf, state: () => [...state] }) });
})();
