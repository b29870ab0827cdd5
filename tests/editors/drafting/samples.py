"""Small samples of key files in many forms, and what each says."""

SAMPLES = {
    "blocks with an end": (
        "mode edit\n    ctrl-s    save-file\n    f3        find-next\nend\nmode browse\n    j         cursor-down\nend\n"
        "mode edit\n    ctrl-z    undo\nend\n",
        ["Ctrl+s save-file  edit", "F3 find-next  edit", "j cursor-down  browse", "Ctrl+z undo  edit"],
    ),
    "calls": (
        'bindkey("C-s", save_file);\nbindkey("C-x C-c", quit);\nbindkey("M-up", move_up);\nunbindkey("C-q");\n',
        ["Alt+ArrowUp move_up  ", "Ctrl+q   ", "Ctrl+s save_file  ", "Ctrl+x Ctrl+c quit  "],
    ),
    "a table": (
        'keys = {\n  ["ctrl+s"] = "save",\n  ["f3"] = "find_next",\n  ["ctrl+w"] = nil\n}\n',
        ["Ctrl+s save  ", "Ctrl+w   ", "F3 find_next  "],
    ),
    "columns": (
        "Ctrl+S,file.save,global\nCtrl+Z,edit.undo,text\nAlt+Up,line.up,text\nF3,find.next,text\nCtrl+N,file.new,tree\n",
        [
            "Alt+ArrowUp line.up  text",
            "Ctrl+n file.new  tree",
            "Ctrl+s file.save  global",
            "Ctrl+z edit.undo  text",
            "F3 find.next  text",
        ],
    ),
    "words with a tab": (
        "save all\tCtrl+S\nundo\tCtrl+Z\nfind next\tF3\n",
        ["Ctrl+s save all  ", "Ctrl+z undo  ", "F3 find next  "],
    ),
    "conditions": (
        "bind ctrl-s save\nbind ctrl-q quit\nbind alt-up raise when not readonly\nbind f3 find while text\n",
        ["Alt+ArrowUp raise not readonly ", "Ctrl+q quit  ", "Ctrl+s save  ", "F3 find text "],
    ),
    "conditions that are named in a table": (
        "keys = {\n  { key: 'ctrl+s', run: 'save' },\n  { key: 'alt+up', run: 'raise', when: 'editing && !tree' },\n"
        "  { key: 'f3', run: 'find_next', when: 'tree' },\n  { key: 'ctrl+z', run: 'undo' }\n}\n",
        ["Alt+ArrowUp raise editing && !tree ", "Ctrl+s save  ", "Ctrl+z undo  ", "F3 find_next tree "],
    ),
    "conditions in brackets of their own": (
        'map("ctrl+s", "save")\nmap("f3", "find_next", { when = "tree" })\nmap("ctrl+z", "undo")\n',
        ["Ctrl+s save  ", "Ctrl+z undo  ", "F3 find_next tree "],
    ),
    "conditions behind a name": (
        'bind "Ctrl+S" action="save"\nbind "F3" action="find-next" when="tree or list"\nbind "Ctrl+Z" action="undo"\n',
        ["Ctrl+s save  ", "Ctrl+z undo  ", "F3 find-next tree or list "],
    ),
    "conditions behind a word with a colon": (
        '(key "C-s" save)\n(key "<f3>" find-next :when "tree")\n(key "C-z" undo :when "text")\n(key "C-y" redo)\n',
        ["Ctrl+s save  ", "Ctrl+y redo  ", "Ctrl+z undo text ", "F3 find-next tree "],
    ),
    "commands that begin with a colon": (
        '(key "C-s" :save "Keep it")\n(key "<f3>" :find-next "Look on")\n(key "C-z" :undo "Take it back")\n',
        ["Ctrl+s :save  ", "Ctrl+z :undo  ", "F3 :find-next  "],
    ),
    "headings": (
        "[text]\nC-s: save\nC-S-k: delete-line\n[files]\nC-n: new-file\nF2: rename\n",
        ["Ctrl+Shift+k delete-line  text", "Ctrl+n new-file  files", "Ctrl+s save  text", "F2 rename  files"],
    ),
    "outside and in a block": (
        "bind ctrl-s save\nbind ctrl-q quit\nmode tree\n  bind ctrl-n new-file\n  unbind ctrl-w\nend\n",
        ["Ctrl+n new-file  tree", "Ctrl+q quit  ", "Ctrl+s save  ", "Ctrl+w   tree"],
    ),
    "records": (
        "command: save\nkeys: Ctrl+S\n\ncommand: find\nkeys: F3\nwhen: tree\n\n# moved\ncommand: line-up\nkeys: Alt+Up\n"
        "when: editing\n",
        ["Alt+ArrowUp line-up editing ", "Ctrl+s save  ", "F3 find tree "],
    ),
    "records with signs": (
        "Key = C-s\nAction = save\n---\nKey = C-x C-c\nAction = quit\n---\nKey = M-u\nAction = upcase\n",
        ["Alt+u upcase  ", "Ctrl+s save  ", "Ctrl+x Ctrl+c quit  "],
    ),
    "a list of keys": (
        '[{"keys": ["ctrl+s"], "run": "save"}, {"keys": ["ctrl+k", "ctrl+c"], "run": "comment"}, {"keys": ["f'
        '3"], "run": null}]',
        ["Ctrl+k Ctrl+c comment  ", "Ctrl+s save  ", "F3   "],
    ),
    "several keys of a command": (
        "save: Ctrl+S\nredo: [Ctrl+Y, Ctrl+Shift+Z]\nfind.next: F3\nundo: none\n",
        ["Ctrl+Shift+z redo  ", "Ctrl+s save  ", "Ctrl+y redo  ", "F3 find.next  "],
    ),
    "several keys in a line": (
        "[keys]\nsave = Ctrl+S\nredo = Ctrl+Y, Ctrl+Shift+Z\nfind.next = F3\n",
        ["Ctrl+Shift+z redo  keys", "Ctrl+s save  keys", "Ctrl+y redo  keys", "F3 find.next  keys"],
    ),
    "keys in groups of commands": (
        '<keymap><action id="save"><shortcut first="ctrl S"/></action><action id="redo"><shortcut first="ctrl Y"/>'
        '<shortcut first="ctrl shift Z"/></action><action id="undo"><shortcut first="ctrl Z"/></action></keymap>',
        ["Ctrl+Shift+z redo  ", "Ctrl+s save  ", "Ctrl+y redo  ", "Ctrl+z undo  "],
    ),
    "a condition around some": (
        '[{"context": "Editor", "bindings": {"ctrl-s": "file::Save", "alt-up": "line::Up"}},'
        ' {"context": "Files", "bindings": {"ctrl-n": "file::New", "f2": "file::Rename"}}, {"bindings": {"ctr'
        'l-q": "app::Quit"}}]',
        [
            "Alt+ArrowUp line::Up Editor ",
            "Ctrl+n file::New Files ",
            "Ctrl+q app::Quit  ",
            "Ctrl+s file::Save Editor ",
            "F2 file::Rename Files ",
        ],
    ),
    "commands as names of groups": (
        "save: {key: ctrl+s}\nundo: {key: ctrl+z, when: editing}\nredo: {key: ctrl+y, when: editing}\nfind: {key: f3}\n",
        ["Ctrl+s save  ", "Ctrl+y redo editing ", "Ctrl+z undo editing ", "F3 find  "],
    ),
    "quoted words in lists": (
        '(define-key edit-map (kbd "C-s") \'save)\n(define-key edit-map (kbd "M-<up>") \'raise)\n'
        '(define-key list-map (kbd "<f5>") \'refresh)\n(define-key list-map (kbd "C-x C-c") \'quit)\n',
        [
            "Alt+ArrowUp raise  edit-map",
            "Ctrl+s save  edit-map",
            "Ctrl+x Ctrl+c quit  list-map",
            "F5 refresh  list-map",
        ],
    ),
    "sections in attributes": (
        '<keys><mode name="edit"><bind key="C-s">save</bind><bind key="A-up">raise</bind><unbind key="C-q"/></mode>'
        '<mode name="list"><bind key="C-n">new</bind></mode></keys>',
        ["Alt+ArrowUp raise  edit", "Ctrl+n new  list", "Ctrl+q   edit", "Ctrl+s save  edit"],
    ),
    "sections in records": (
        "- {mode: edit, press: ctrl-s, run: save}\n- {mode: edit, press: alt-up, run: raise}\n"
        "- {mode: list, press: f2, run: name}\n- {mode: list, press: ctrl-n, run: new}\n",
        ["Alt+ArrowUp raise  edit", "Ctrl+n new  list", "Ctrl+s save  edit", "F2 name  list"],
    ),
    "sections as names of lists": (
        '{"edit": [{"key": "ctrl+s", "run": "save"}, {"key": "alt+up", "run": "raise"}],'
        ' "list": [{"key": "ctrl+n", "run": "new"}]}',
        ["Alt+ArrowUp raise  edit", "Ctrl+n new  list", "Ctrl+s save  edit"],
    ),
    "brackets": (
        "nmap <C-s> save-all\nnmap <C-k><F2> rename\nnmap j go-down\n",
        ["Ctrl+k F2 rename  ", "Ctrl+s save-all  ", "j go-down  "],
    ),
    "modifiers in a list": (
        '[{"code":"s","mods":["ctrl"],"command":"save"},{"code":"z","mods":["ctrl","shift"],"command":"redo"}'
        ',{"code":"F3","mods":[],"command":"find.next"},{"code":"Up","mods":["alt"],"command":"line.up"}]',
        ["Alt+ArrowUp line.up  ", "Ctrl+Shift+z redo  ", "Ctrl+s save  ", "F3 find.next  "],
    ),
    "keys as groups": (
        '[{"key":{"code":"s","mods":["ctrl"]},"command":"save"},{"key":{"code":"z","mods":["ctrl","shift"]},"'
        'command":"redo"},{"key":{"code":"F3"},"command":"find.next"},{"key":{"code":"Up","mods":["alt"]},"co'
        'mmand":"line.up"}]',
        ["Alt+ArrowUp line.up  ", "Ctrl+Shift+z redo  ", "Ctrl+s save  ", "F3 find.next  "],
    ),
    "modifiers in an attribute": (
        '<keys><bind key="S" modifiers="ctrl" command="save"/><bind key="Z" modifiers="ctrl shift" command="r'
        'edo"/><bind key="F3" modifiers="" command="find-next"/><bind key="Up" modifiers="alt" command="line-'
        'up"/></keys>',
        ["Alt+ArrowUp line-up  ", "Ctrl+Shift+z redo  ", "Ctrl+s save  ", "F3 find-next  "],
    ),
    "modifiers with a sign": (
        "- key: S\n  mods: Control|Shift\n  action: save-all\n- key: Z\n  mods: Control\n  action: undo\n"
        "- key: F3\n  action: find-next\n- key: Up\n  mods: Alt\n  action: line-up\n",
        ["Alt+ArrowUp line-up  ", "Ctrl+Shift+s save-all  ", "Ctrl+z undo  ", "F3 find-next  "],
    ),
    "modifiers in a column": (
        "key,modifiers,command\nS,Ctrl,save\nZ,Ctrl+Shift,redo\nF3,,find-next\nUp,Alt,line-up\n",
        ["Alt+ArrowUp line-up  ", "Ctrl+Shift+z redo  ", "Ctrl+s save  ", "F3 find-next  "],
    ),
    "modifiers as yes and no": (
        '[{"key":"s","ctrl":true,"command":"save"},{"key":"z","ctrl":true,"shift":true,"command":"redo"},{"ke'
        'y":"F3","command":"find-next"},{"key":"Up","alt":true,"command":"line-up"}]',
        ["Alt+ArrowUp line-up  ", "Ctrl+Shift+z redo  ", "Ctrl+s save  ", "F3 find-next  "],
    ),
    "modifiers as yes and no in attributes": (
        '<keys><key code="S" ctrl="true" shift="false" alt="false" command="save"/><key code="Z" ctrl="true" '
        'shift="true" alt="false" command="redo"/><key code="F3" ctrl="false" shift="false" alt="false" comma'
        'nd="find-next"/><key code="Up" ctrl="false" shift="false" alt="true" command="line-up"/></keys>',
        ["Alt+ArrowUp line-up  ", "Ctrl+Shift+z redo  ", "Ctrl+s save  ", "F3 find-next  "],
    ),
    "numbered lines": (
        "[keys]\n1=Ctrl+S,save\n2=Ctrl+Shift+Z,redo\n3=F3,find-next\n4=Alt+Up,line-up\n",
        ["Alt+ArrowUp line-up  keys", "Ctrl+Shift+z redo  keys", "Ctrl+s save  keys", "F3 find-next  keys"],
    ),
    "numbered groups": (
        "[binding1]\nkey=Ctrl+S\ncommand=save\n[binding2]\nkey=Ctrl+Shift+Z\ncommand=redo\n[binding3]\nkey=F3\ncommand=find-next\n[binding4]\nkey=Alt+Up\ncommand=line-up\n",
        ["Alt+ArrowUp line-up  ", "Ctrl+Shift+z redo  ", "Ctrl+s save  ", "F3 find-next  "],
    ),
    "names above columns": (
        "key,command,when\nctrl+s,save,\nctrl+shift+z,redo,editing\nf3,find-next,editing\nalt+up,line-u"
        "p,editing and not readonly\n",
        [
            "Alt+ArrowUp line-up editing and not readonly ",
            "Ctrl+Shift+z redo editing ",
            "Ctrl+s save  ",
            "F3 find-next editing ",
        ],
    ),
    "columns in quotes": (
        '"key","command","title"\n"ctrl+s","save","Save it"\n"ctrl+shift+z","redo","Do again, once"\n"f3","find-'
        'next","Find the next"\n',
        ["Ctrl+Shift+z redo  ", "Ctrl+s save  ", "F3 find-next  "],
    ),
    "a table with a rule": (
        "| key | command |\n|---|---|\n| Ctrl+S | save |\n| Ctrl+Shift+Z | redo |\n| F3 | find-next |\n",
        ["Ctrl+Shift+z redo  ", "Ctrl+s save  ", "F3 find-next  "],
    ),
    "keys behind a key": (
        '[keys]\nctrl-s = "save"\nf3 = "find-next"\nalt-up = "line-up"\n[keys.ctrl-k]\nctrl-c = "comment"\nctrl-u ='
        ' "uncomment"\n',
        [
            "Alt+ArrowUp line-up  keys",
            "Ctrl+k Ctrl+c comment  keys",
            "Ctrl+k Ctrl+u uncomment  keys",
            "Ctrl+s save  keys",
            "F3 find-next  keys",
        ],
    ),
    "keys behind a key in a mode": (
        '[keys.normal]\nctrl-s = "save"\nf3 = "find-next"\n[keys.normal.g]\ng = "top"\ne = "bottom"\n[keys.insert]\n'
        'alt-up = "line-up"\nctrl-z="undo"\n',
        [
            "Alt+ArrowUp line-up  insert",
            "Ctrl+s save  normal",
            "Ctrl+z undo  insert",
            "F3 find-next  normal",
            "g e bottom  normal",
            "g g top  normal",
        ],
    ),
    "options": (
        "bind -m edit ctrl-s save\nbind -m edit ctrl-shift-z redo\nbind -m tree f3 find-next\nbind alt"
        "-up line-up\nunbind -m tree ctrl-q\n",
        [
            "Alt+ArrowUp line-up  ",
            "Ctrl+Shift+z redo  edit",
            "Ctrl+q   tree",
            "Ctrl+s save  edit",
            "F3 find-next  tree",
        ],
    ),
    "options with a sign": (
        "bind --mode=edit ctrl-s save\nbind --mode=edit ctrl-shift-z redo\nbind --mode=tree f3 find-next\nbind alt-up line-up\n",
        ["Alt+ArrowUp line-up  ", "Ctrl+Shift+z redo  edit", "Ctrl+s save  edit", "F3 find-next  tree"],
    ),
    "options of some": (
        "bind -r ctrl-s save\nbind ctrl-shift-z redo\nbind -r f3 find-next\nbind alt-up line-up\n",
        ["Alt+ArrowUp line-up  ", "Ctrl+Shift+z redo  ", "Ctrl+s save  ", "F3 find-next  "],
    ),
    "unless": (
        "bind ctrl-s save\nbind ctrl-q quit\nbind alt-up raise unless readonly\nbind f3 find if text\n",
        ["Alt+ArrowUp raise readonly ", "Ctrl+q quit  ", "Ctrl+s save  ", "F3 find text "],
    ),
    "keys as names of groups": (
        '{"ctrl+s":{"command":"save"},"ctrl+shift+z":{"command":"redo"},"f3":{"command":"find-next"},"alt+up"'
        ':{"command":"line-up"}}',
        ["Alt+ArrowUp line-up  ", "Ctrl+Shift+z redo  ", "Ctrl+s save  ", "F3 find-next  "],
    ),
    "elements with a text": (
        "<commands><command><id>save</id><key>Ctrl+S</key></command><command><id>redo</id><key>Ctrl+Shift+Z</key></command><command><id>find</id><key>F3</key></command></commands>",
        ["Ctrl+Shift+z redo  ", "Ctrl+s save  ", "F3 find  "],
    ),
    "named parts of calls": (
        'bind { key = "ctrl+s", run = "save" }\nbind { key = "ctrl+shift+z", run = "redo" }\nbind { key = "f3",'
        ' run = "find-next" }\n',
        ["Ctrl+Shift+z redo  ", "Ctrl+s save  ", "F3 find-next  "],
    ),
    "a table of words": (
        'KEYS = {\n    "ctrl+s": save,\n    "ctrl+shift+z": redo,\n    "f3": find_next,\n}\n',
        ["Ctrl+Shift+z redo  ", "Ctrl+s save  ", "F3 find_next  "],
    ),
    "lists of parts of a chord": (
        '[[["ctrl","s"],"save"],[["ctrl","shift","z"],"redo"],[["f3"],"find-next"],[["alt","up"],"line-up"]]',
        ["Alt+ArrowUp line-up  ", "Ctrl+Shift+z redo  ", "Ctrl+s save  ", "F3 find-next  "],
    ),
    "lists of bindings and of removals": (
        '[[bind]]\nkey = "ctrl+s"\ncommand = "save"\n[[bind]]\nkey = "ctrl+shift+z"\ncommand = "redo"\nwhen = "edit'
        'ing"\n[[bind]]\nkey = "f3"\ncommand = "find-next"\n[[unbind]]\nkey = "ctrl+q"\n',
        ["Ctrl+Shift+z redo editing ", "Ctrl+q   ", "Ctrl+s save  ", "F3 find-next  "],
    ),
    "columns with a verb-like first one": (
        "edit | Ctrl+S | save\nedit | Ctrl+Shift+Z | redo\ntree | F3 | find-next\nedit | Alt+Up | line-up\n",
        ["Alt+ArrowUp line-up  edit", "Ctrl+Shift+z redo  edit", "Ctrl+s save  edit", "F3 find-next  tree"],
    ),
    "conditions in brackets": (
        "Ctrl+S: save\nCtrl+Shift+Z: redo [editing]\nF3: find-next [editing]\nAlt+Up: line-up\n",
        ["Alt+ArrowUp line-up  ", "Ctrl+Shift+z redo editing ", "Ctrl+s save  ", "F3 find-next editing "],
    ),
    "a sign before a section": (
        "@edit C-s save\n@edit C-S-z redo\n@tree F3 find-next\n@edit M-up line-up\n",
        ["Alt+ArrowUp line-up  edit", "Ctrl+Shift+z redo  edit", "Ctrl+s save  edit", "F3 find-next  tree"],
    ),
    "sections in brackets": (
        "[editing] C-s = save\n[editing] C-S-z = redo\n[tree] F3 = find-next\n[editing] M-up = line-up\n",
        ["Alt+ArrowUp line-up  editing", "Ctrl+Shift+z redo  editing", "Ctrl+s save  editing", "F3 find-next  tree"],
    ),
    "a list of one each": (
        "- ctrl-s: save\n- ctrl-shift-z: redo\n- f3: find-next\n- alt-up: line-up\n",
        ["Alt+ArrowUp line-up  ", "Ctrl+Shift+z redo  ", "Ctrl+s save  ", "F3 find-next  "],
    ),
    "blanks around the joiner": (
        "save             = Ctrl + S\nredo             = Ctrl + Shift + Z\nfind-next        = F3\n",
        ["Ctrl+Shift+z redo  ", "Ctrl+s save  ", "F3 find-next  "],
    ),
    "signs for modifiers": (
        "⌘S = save\n⌘⇧Z = redo\n⌥F3 = find-next\n",
        ["Alt+F3 find-next  ", "Meta+Shift+z redo  ", "Meta+s save  "],
    ),
    "what is off": (
        '[{"command":"save","key":"ctrl+s","enabled":true},{"command":"redo","key":"ctrl+shift+z","enabled":f'
        'alse},{"command":"find-next","key":"f3","enabled":true}]',
        ["Ctrl+s save  ", "F3 find-next  "],
    ),
    "a word before each key": (
        "KEY_CTRL_S = save\nKEY_CTRL_SHIFT_Z = redo\nKEY_F3 = find_next\nKEY_ALT_UP = line_up\n",
        ["Alt+ArrowUp line_up  ", "Ctrl+Shift+z redo  ", "Ctrl+s save  ", "F3 find_next  "],
    ),
    "a sign before each chord": (
        '"\\C-s": save\n"\\C-x\\C-z": redo\n"\\M-u": line-up\n"\\C-x\\C-f": find-next\n',
        ["Alt+u line-up  ", "Ctrl+s save  ", "Ctrl+x Ctrl+f find-next  ", "Ctrl+x Ctrl+z redo  "],
    ),
    "what is pressed then": (
        "<keymap><shortcut><command>save</command><first>Ctrl+S</first></shortcut><shortcut><command>open</command><first>"
        "Ctrl+K</first><second>Ctrl+O</second></shortcut><shortcut><command>find</command><first>F3</first></shortcut></keymap>",
        ["Ctrl+k Ctrl+o open  ", "Ctrl+s save  ", "F3 find  "],
    ),
    "what is pressed then, with blanks": (
        '<keymap><action id="save"><keys first="ctrl S"/></action><action id="open"><keys first="ctrl K" second="ctrl O"/>'
        '</action><action id="find"><keys first="F3"/></action></keymap>',
        ["Ctrl+k Ctrl+o open  ", "Ctrl+s save  ", "F3 find  "],
    ),
    "a word and a sign before keys": (
        "keybind = ctrl+s:save\nkeybind = ctrl+shift+z:redo\nkeybind = f3:find_next\nkeybind = alt+up:line_up\n",
        ["Alt+ArrowUp line_up  ", "Ctrl+Shift+z redo  ", "Ctrl+s save  ", "F3 find_next  "],
    ),
    "a word before keys without blanks": (
        "keybind=ctrl+s:save\nkeybind=ctrl+shift+z:redo\nkeybind=f3:find_next\n",
        ["Ctrl+Shift+z redo  ", "Ctrl+s save  ", "F3 find_next  "],
    ),
    "a module": (
        "module.exports = {\n  keys: [\n    { chord: 'Ctrl-S', run: 'save' },\n    { chord: 'Ctrl-Shift-Z', run: 'redo' },\n"
        "    { chord: 'F3', run: 'findNext' },\n  ],\n};\n",
        ["Ctrl+Shift+z redo  ", "Ctrl+s save  ", "F3 findNext  "],
    ),
    "a condition around names": (
        '[{"context":"Text","bindings":{"ctrl-s":"save","alt-up":"raise"}},{"context":"Panel","bindings":{"f3":"next"}}]',
        ["Alt+ArrowUp raise Text ", "Ctrl+s save Text ", "F3 next Panel "],
    ),
    "an empty group beside the command": (
        '{"keymap":{"ctrl+s":{"command":"save","args":{}},"ctrl+z":{"command":"undo","args":{}},"f3":{"command":"find","args":{}}}}',
        ["Ctrl+s save  ", "Ctrl+z undo  ", "F3 find  "],
    ),
    "keys for another platform beside": (
        '[{"command":"save","key":"ctrl+s","mac":"cmd+s"},{"command":"redo","key":"ctrl+y","mac":"cmd+shift+z"},'
        '{"command":"find","key":"f3","mac":"cmd+g"}]',
        ["Ctrl+s save  ", "Ctrl+y redo  ", "F3 find  "],
    ),
    "keys by platform": (
        '[{"command":"save","keys":{"mac":"cmd+s","linux":"ctrl+s"}},{"command":"redo","keys":{"mac":"cmd+y","linux":"ctrl+y"}}]',
        ["Ctrl+s save  ", "Ctrl+y redo  "],
    ),
    "groups by platform": (
        '{"linux":{"ctrl+s":"save","f3":"find.next"},"mac":{"cmd+s":"save","cmd+g":"find.next"}}',
        ["Ctrl+s save  ", "F3 find.next  "],
    ),
    "modes in the first word": (
        "nmap <C-s> :save<CR>\nnmap <C-z> :undo<CR>\nimap <C-s> :save<CR>\nimap <M-up> :raise<CR>\n",
        ["Alt+ArrowUp raise  imap", "Ctrl+s save  imap", "Ctrl+s save  nmap", "Ctrl+z undo  nmap"],
    ),
    "chords side by side": (
        "bind ^S save\nbind ^X^C quit\nbind ^Xk shut\nbind M-u undo\n",
        ["Alt+u undo  ", "Ctrl+s save  ", "Ctrl+x Ctrl+c quit  ", "Ctrl+x k shut  "],
    ),
    "a table of a program": (
        "static struct key keys[] = {\n\t{ MOD_CTRL, KEY_S, save },\n\t{ MOD_CTRL | MOD_SHIFT, KEY_Z, redo },\n"
        "\t{ 0, KEY_F3, find_next },\n\t{ MOD_ALT, KEY_UP, raise },\n};\n",
        ["Alt+ArrowUp raise  ", "Ctrl+Shift+z redo  ", "Ctrl+s save  ", "F3 find_next  "],
    ),
    "names around commands": (
        "action.save.shortcut=Ctrl S\naction.redo.shortcut=Ctrl Shift Z\naction.findNext.shortcut=F3\n",
        ["Ctrl+Shift+z redo  ", "Ctrl+s save  ", "F3 findNext  "],
    ),
    "words before a list": (
        '(setq keys \'(("C-s" . save) ("M-up" . raise) ("C-x C-c" . quit)))\n',
        ["Alt+ArrowUp raise  ", "Ctrl+s save  ", "Ctrl+x Ctrl+c quit  "],
    ),
    "columns with tabs and what a command does": (
        "Ctrl+S\tsave_text\tSave the text\nCtrl+Shift+Z\tredo_it\tDo it again\nF3\tfind_next\tFind the next one\n",
        ["Ctrl+Shift+z redo_it  ", "Ctrl+s save_text  ", "F3 find_next  "],
    ),
    "columns with blanks and what a command does": (
        "Ctrl+S          save_text    Save the text\nCtrl+Shift+Z    redo_it      Do it again\n"
        "F3              find_next    Find the next one\n",
        ["Ctrl+Shift+z redo_it  ", "Ctrl+s save_text  ", "F3 find_next  "],
    ),
    "comments behind bindings": (
        "# keys\nbind ctrl+s save_text      # kept\nbind ctrl+shift+s save_all\nbind alt+up raise # up\nbind f3 find_next\n",
        ["Alt+ArrowUp raise  ", "Ctrl+Shift+s save_all  ", "Ctrl+s save_text  ", "F3 find_next  "],
    ),
    "comments behind all bindings": (
        "ctrl+s = save_text // keep it\nctrl+o = open_text // from the disk\nf3 = find_next // again\nctrl+z = undo // it\n",
        ["Ctrl+o open_text  ", "Ctrl+s save_text  ", "Ctrl+z undo  ", "F3 find_next  "],
    ),
    "comments behind blocks": (
        "mode text {  # where one types\n  bind ctrl+s save_text\n  bind ctrl+z undo # it\n}\nmode files { # at the left\n"
        "  bind ctrl+o open_text\n  unbind ctrl+q # too near\n} # of them\n",
        ["Ctrl+o open_text  files", "Ctrl+q   files", "Ctrl+s save_text  text", "Ctrl+z undo  text"],
    ),
    "chains": (
        "ctrl+s = save\nctrl+q = save, quit\nctrl+w = quit\nctrl+z = undo\nf5 = undo, save, quit\n",
        ["Ctrl+q save, quit  ", "Ctrl+s save  ", "Ctrl+w quit  ", "Ctrl+z undo  ", "F5 undo, save, quit  "],
    ),
}
"""A sample, and what it says: keys, command, condition, section."""
