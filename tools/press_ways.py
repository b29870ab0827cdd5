"""Press the commands in a row that are written for actions: python tools/press_ways.py [COUNT] [SEED] [EDITOR…].

COUNT is that of the random cases for each section of an editor.
"""

import sys
import time

from conform import SHIPPED
from record_cases import WORKERS, sections

from ombix.editors.description_loading import Dialects
from ombix.evidence import effect_conformance
from ombix.evidence.sandbox import Sandbox


def main() -> int:
    count, seed = (int(word) for word in (*sys.argv[1:3], "500", "1")[:2])
    differing = 0
    for editor, section in sections(sys.argv[3:]):
        started = time.monotonic()
        ways = effect_conformance.ways_of(Dialects(SHIPPED).load(editor), section, SHIPPED.catalogue())
        if not ways.ways:
            continue
        some = [
            one
            for one in effect_conformance.cases(ways, count, seed, alone=True)
            if effect_conformance.expected(one, ways).is_sure
        ]
        found = effect_conformance.run_many(some, ways, Sandbox((), ""), WORKERS)
        wrong = [one for one in found if one is not None]
        print(
            f"{editor} {section}: {len(ways.ways)} ways, {len(some)} cases, {len(wrong)} differ, {time.monotonic() - started:.0f} s"
        )
        for one in wrong[:5]:
            print(f"    {one}")
        differing += len(wrong)
    return 1 if differing else 0


if __name__ == "__main__":
    sys.exit(main())
