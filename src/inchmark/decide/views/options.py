"""Options: every combination the shelf allows, filtered, ordered, drawn."""

from __future__ import annotations

import math
import re

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_GET

from inchmark.decide.figures.option_columns import BY_KEY, COLUMNS, Filters, ordered
from inchmark.decide.figures.options import MOST, count_of, idle_powers
from inchmark.decide.figures.weighing import MOST as MOST_WEIGHT
from inchmark.decide.figures.weighing import WEIGHED, weights_over
from inchmark.decide.services.options import (
    allowed_of,
    chart_of,
    names_of,
    options_for,
    walked_with_draws,
    without,
)
from inchmark.formats.quantities import read_power_dbm
from inchmark.pages.parts import page_or_part
from inchmark.people.services.rates import at_most
from inchmark.studies.access import study_for

SHOWN = 60
MOST_POWERS, LONGEST = 12, 200  # powers, and characters of them


@require_GET
@login_required
@at_most(120)
def options(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show the options, those none beats in everything first."""
    study = study_for(request, study_id)
    asked = request.GET
    offered = allowed_of(study)
    left_out = [one for one in asked.getlist("without") if len(one) < 40][:500]
    powers, no_powers = _powers(request)
    allowed = without(offered, left_out, powers)
    walked = walked_with_draws(study)
    count = count_of(walked, allowed)
    found = options_for(study, allowed, left_out) if count <= MOST else []
    filters, problems = _filters(request)
    weights, unread = _weights(request)
    kept = filters.keep(found)
    scored = weights_over(kept, weights)
    by_weight = asked.get("sort", "") == "weights" and scored is not None
    kept = (
        sorted(kept, key=lambda one: -scored.scores[id(one)])
        if by_weight and scored
        else ordered(kept, asked.get("sort", ""))
    )
    x, y = (
        BY_KEY.get(asked.get(axis, ""), BY_KEY[usual])
        for axis, usual in (("x", "node"), ("y", "served"))
    )
    context = {
        "study": study,
        "room": "decide",
        "page": "options",
        "walked": walked,
        "offered": names_of(offered),
        "left_out": set(left_out),
        "too_many": count if count > MOST else 0,
        "most": MOST,
        "total": len(found),
        "kept": len(kept),
        "best": sum(one.stands_out for one in kept),
        "rows": [
            (one, [column.show(one) for column in COLUMNS], scored.of(one) if scored else "")
            for one in kept[:SHOWN]
        ],
        "scored": scored,
        "weighable": [(BY_KEY[key], asked.get(f"weight-{key}", "")) for key in WEIGHED],
        "columns": [(column, asked.get(f"bound-{column.key}", "")) for column in COLUMNS],
        "sort": asked.get("sort", ""),
        "x": x,
        "y": y,
        "chart": chart_of(kept, x, y),
        "filters": filters,
        "idle_powers": idle_powers(found, powers),
        "powers": asked.get("powers", "")[:LONGEST],
        "problems": [*problems, *unread, *no_powers],
    }
    return page_or_part(request, "decide/options.html", "decide/_options.html", context)


def _powers(request: HttpRequest) -> tuple[list[float], list[str]]:
    """Return the powers that were typed [dBm], and sentences on those that cannot be read."""
    found: list[float] = []
    typed = re.split(r"[;,]", request.GET.get("powers", "")[:LONGEST])
    for one in filter(None, (part.strip() for part in typed)):
        try:
            found.append(round(read_power_dbm(one), 2))
        except ValueError as wrong:
            return [], [f"Powers: {wrong}"]
    powers = list(dict.fromkeys(found))
    if len(powers) > MOST_POWERS:
        return [], [f"Powers: {len(powers)} are typed; {MOST_POWERS} are the most."]
    return powers, []


def _weights(request: HttpRequest) -> tuple[dict[str, float], list[str]]:
    """Return the weights that were typed, and sentences on those that cannot be read."""
    weights, problems = {}, []
    for key in WEIGHED:
        typed = request.GET.get(f"weight-{key}", "").strip()[:20]
        value = _number(typed)
        if value is not None and 0 <= value <= MOST_WEIGHT:
            weights[key] = value
        elif typed:
            problems.append(
                f"Weight of {BY_KEY[key].name}: “{typed}” is no number from 0 to {MOST_WEIGHT:.0f}."
            )
    return weights, problems


def _number(typed: str) -> float | None:
    try:
        value = float(typed.replace("\N{MINUS SIGN}", "-").replace(",", "."))
    except ValueError:
        return None
    return value if math.isfinite(value) else None


def _filters(request: HttpRequest) -> tuple[Filters, list[str]]:
    bounds, problems = {}, []
    for column in COLUMNS:
        typed = request.GET.get(f"bound-{column.key}", "").strip()[:20]
        value = _number(typed)
        if value is not None:
            bounds[column.key] = value
        elif typed:
            problems.append(f"{column.name}: “{typed}” is no number; write one, like 3.")
    return (
        Filters(
            bounds=bounds,
            allowed_only=request.GET.get("allowed") == "1",
            walked_only=request.GET.get("walked") == "1",
        ),
        problems,
    )
