"""Gathering options: the walked rigs with their draws, and the parts and settings they may have."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from inchmark.decide.drawings.options import Given, OptionChart, option_chart
from inchmark.decide.figures.option_columns import Column
from inchmark.decide.figures.options import Allowed, Option, Walked, options_of
from inchmark.decide.figures.tried import draws_of
from inchmark.decide.services.ground import sender_of
from inchmark.read.services import current_reading
from inchmark.shelf.adapters.rigs import rigs_of
from inchmark.studies.memory import per_revision
from inchmark.studies.models import Study

LABELLED = 12  # points that stand out are named as long as they are few


def allowed_of(study: Study) -> Allowed:
    """Return all a study's shelf allows."""
    return Allowed(
        settings=list(study.settings.filter(archived=False).select_related("module")),
        antennas=list(study.antenna_parts.filter(archived=False)),
        batteries=list(study.battery_parts.filter(archived=False)),
        feeds=list(study.feed_parts.filter(archived=False)),
    )


def names_of(allowed: Allowed) -> list[tuple[str, str]]:
    """Return what may be left out: its key and its name."""
    kinds = (
        ("setting", allowed.settings),
        ("antenna", allowed.antennas),
        ("battery", allowed.batteries),
        ("feed", allowed.feeds),
    )
    return [(f"{kind}-{one.pk}", one.name) for kind, rows in kinds for one in rows]


def without(allowed: Allowed, left_out: Sequence[str], powers: Sequence[float] = ()) -> Allowed:
    """Return what is allowed without what the user left out, like “antenna-3”, and with powers [dBm]."""

    def kept(kind: str, rows: Sequence[Any]) -> list[Any]:
        return [one for one in rows if f"{kind}-{one.pk}" not in left_out]

    return Allowed(
        settings=kept("setting", allowed.settings),
        antennas=kept("antenna", allowed.antennas),
        batteries=kept("battery", allowed.batteries),
        feeds=kept("feed", allowed.feeds),
        powers_dbm=tuple(powers),
    )


def walked_with_draws(study: Study) -> list[Walked]:
    """Return the walked rigs of which the reading kept draws."""
    kept = current_reading(study)
    drawn = {one.rig: draws_of(one.drawn) for one in kept.reading.served} if kept else {}
    return [
        Walked(rig=rig, draws=draws, sender=sender_of(study, rig))
        for rig in rigs_of(study)
        if (draws := drawn.get(rig.letter)) is not None
    ]


def options_for(study: Study, allowed: Allowed, left_out: Sequence[str]) -> list[Option]:
    """Return the options of a study, worked out once for what is allowed."""
    kept = current_reading(study)
    walked = walked_with_draws(study)

    def make() -> list[Option]:
        return options_of(walked, allowed, loss=study.loss_share, region=study.region)

    asked = tuple(sorted(left_out)), tuple(allowed.powers_dbm)
    return per_revision(study, "options", make, kept.row.pk if kept else 0, asked)


def chart_of(options: Sequence[Option], x: Column, y: Column) -> OptionChart | None:
    """Return options as a chart of two columns; those without a figure in one are left out."""
    out = sum(one.stands_out for one in options)
    given = [
        Given(
            x=at, y=up,
            x_limits=x.limits(one) if x.limits else None,
            y_limits=y.limits(one) if y.limits else None,
            stands_out=one.stands_out,
            label=f"{one.setting}, {one.antenna}" if out <= LABELLED and one.stands_out else "",
        )
        for one in options
        if (at := x.get(one)) is not None and (up := y.get(one)) is not None
    ]  # fmt: skip
    return option_chart(given, x.title, y.title, lambda value: f"{value:g}")
