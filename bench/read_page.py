"""Server time of the Read page of a study with a million frames, and its ratio to a small study's.

Usage: .venv/bin/python -m bench.read_page [--rows 1000000]
Times the whole request inside the server (middleware, view, template), median of 20, in a process
of its own; the ratio says whether the page's time grows with frames (it must not: it reads
per-visit summaries).
"""

from pathlib import Path

from bench.database import scratch_rows
from bench.import_frames import IMPORT, PREPARE, run, write_log
from bench.pages_timed import TIMED

PAGE = (
    TIMED
    + """
from inchmark.read.services import make_reading
from inchmark.studies.models import Study
study = Study.objects.order_by("-pk").first()
make_reading(study.pk)

def all_visits(response):
    assert response.content.count(b"<svg class=\\"strip") == 40, "the page does not show all visits"

print(timed(client_of("bench"), f"/studies/{study.pk}/read/", all_visits))
"""
)


def page_ms(environment: dict, folder: Path, rows: int) -> float:
    """Import a log of that many rows and return the page's median time [ms]."""
    log = folder / f"{rows}.csv"
    write_log(log, rows)
    run(environment, IMPORT, run(environment, PREPARE, str(log)))
    return float(run(environment, PAGE, "").split()[0])


def main() -> None:
    """Print both medians and the ratio."""
    with scratch_rows(__doc__) as (rows, folder, _, environment):
        small, large = (page_ms(environment, folder, n) for n in (2_400, rows))
    print(f"Read page, median of 20: {large:.0f} ms with {rows:,} frames (wanted: at most 150)")
    print(f"ratio to the same page with 2,400 frames ({small:.0f} ms): {large / small:.2f}")


if __name__ == "__main__":
    main()
