"""Server time of the plan's pages with 200 stops, and their ratio to the same pages with 8 stops.

Usage: .venv/bin/python -m bench.plan_page
Times the whole request inside the server (middleware, view, template), median of 20, with three
rigs and terrain under every path.
"""

from __future__ import annotations

from bench.database import scratch_database
from bench.import_frames import run
from bench.pages_timed import TIMED

PAGES = ("", "predicted/", "design/", "day/", "map/")
MEASURE = (
    TIMED
    + """
import sys
from inchmark.core.geodesy import Place, destination
from inchmark.demo.services import load_demo
from inchmark.plan.models import Stop
from inchmark.plan.services import save_stop
user, _ = User.objects.get_or_create(username="bench")
study = load_demo(user)
start = Place(lat_deg=47.5, lon_deg=-21.0)
for i in range(study.stops.count(), int(sys.argv[1].split(";")[0])):
    there = destination(start, 30 + i % 50, 30 + 4.5 * i)
    save_stop(study, Stop(label=f"n{i}", lat=there.lat_deg, lon=there.lon_deg))
client = client_of("bench")
pages = sys.argv[1].split(";")[1].split(",")
print(*(timed(client, f"/studies/{study.pk}/plan/{page}") for page in pages))
"""
)


def main() -> None:
    """Print the median of each page, and the ratios."""
    with scratch_database() as (_, environment):
        pages = ",".join(PAGES)
        small = [float(line) for line in run(environment, MEASURE, f"8;{pages}").split()]
        large = [float(line) for line in run(environment, MEASURE, f"200;{pages}").split()]
    for page, few, many in zip(PAGES, small, large, strict=True):
        name = page.rstrip("/") or "stops"
        print(f"plan, {name}: {many:.0f} ms with 200 stops, {many / few:.1f} times that with 8")


if __name__ == "__main__":
    main()
