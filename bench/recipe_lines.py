"""A raw console log through its recipe against `\\copy` of the rows it gives, in the same run.

Usage: .venv/bin/python -m bench.recipe_lines [--rows 1000000]
One line in twenty is talk. The worker is a process of its own; its peak memory is the kernel's
figure (VmHWM). Makes a database of its own beside the configured one and drops it again.
"""

from pathlib import Path

from bench.database import scratch_rows
from bench.import_frames import PREPARE, imported, run

RECIPE = """
import sys
from inchmark.core.recipe.propose import propose
from inchmark.formats.recipe_file import recipe_to_json
from inchmark.walk.models import FrameFile
from inchmark.walk.services.recipes import first_lines
file = FrameFile.objects.get(pk=int(sys.argv[1]))
found = propose(first_lines(file))
assert not found.questions, found.questions
FrameFile.objects.filter(pk=file.pk).update(recipe=recipe_to_json(found.recipe))
print(len(found.recipe.uses))
"""


def write_console(path: Path, lines: int) -> None:
    """Write a console of 40 visits: keys with values after a time of day, talk between."""
    import numpy as np

    random = np.random.default_rng(1)
    per_visit = lines // 40
    with path.open("w") as file:
        for visit in range(40):
            rig, stop = "ABCD"[visit % 4], visit // 4 + 1
            levels = np.round(random.normal(-60 - 5 * stop, 3, per_visit)).astype(int)
            file.write("\n".join(_lines(rig, stop, levels.tolist())) + "\n")


def _lines(rig: str, stop: int, levels: list[int]):
    for i, level in enumerate(levels):
        clock = f"[{8 + i // 3600 % 12:02d}:{i // 60 % 60:02d}:{i % 60:02d}.250]"
        if i % 20 == 0:
            yield f"{clock} dbg: preamble detected"
        yield f"{clock} rx rig={rig} stop={stop} seq={i} rssi={level} snr={level + 117}.25 bat=3.61"


def main() -> None:
    """Print the ratio and the memory."""
    with scratch_rows(__doc__) as (rows, folder, url, environment):
        log = folder / "console.log"
        write_console(log, rows)
        file_id = run(environment, PREPARE, str(log))
        run(environment, RECIPE, file_id)
        frames, took, copied, peak = imported(environment, url, folder, file_id)
        print(f"{frames:,} frames from a console of {log.stat().st_size / 1e6:.0f} MB")
        print(f"through the recipe, with summaries: {took:.1f} s; \\copy: {copied:.1f} s")
        print(f"ratio: {took / copied:.2f} (wanted: at most 4)")
        print(f"peak memory: {peak:.0f} MB (wanted: at most 300)")


if __name__ == "__main__":
    main()
