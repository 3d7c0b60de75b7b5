"""Ranges from the fit, held to what stops and sense allow, and the one a rig is judged by.

A wrong count of frames can put a range at a few centimetres: the fit is right about the counts it
was given, and the figure is no range of a radio. Such a figure is not shown; a note says why.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.interval import Estimate
from inchmark.core.link_model import ranges as fitted
from inchmark.core.link_model.data import LinkKey
from inchmark.core.link_model.posterior import Posterior
from inchmark.core.reading.analysis import Analysis
from inchmark.core.reading.laws import LawFit
from inchmark.core.reading.measured import TO_CARRIED, TO_FIXED
from inchmark.core.reading.rules import ANY, BEST, EXCHANGE
from inchmark.core.wording import direction_words

LEAST_SHARE = 0.1  # of the nearest stop: nearer in, nothing on this walk speaks of it
LEAST_M = 0.5  # antennas of one link stand farther apart
FARTHEST_M = 1e6  # the horizon of a satellite's beacon; no walk tells of more


@dataclass(frozen=True, slots=True, kw_only=True)
class Deciding:
    """The link a rig is judged by, its range whatever it is, and what the range is of."""

    link: LinkKey
    reach: Estimate | None
    words: str = ""


def nearest_sensible_m(analysis: Analysis) -> float:
    """Return the distance [m] under which a range is no result of this walk."""
    return max(LEAST_SHARE * analysis.distances_m[0], LEAST_M)


def sensible(analysis: Analysis, reach: Estimate | None) -> Estimate | None:
    """Return a range if it is one this walk can speak of."""
    if reach is None:
        return None
    return reach if nearest_sensible_m(analysis) <= reach.estimate <= FARTHEST_M else None


def link_range(analysis: Analysis, link: LinkKey, condition: str = "") -> Estimate | None:
    """Return the fit's range of a link under the loss rule [m]; None without one."""
    return analysis.once(("range", link, condition), lambda: _link_range(analysis, link, condition))


def _link_range(analysis: Analysis, link: LinkKey, condition: str) -> Estimate | None:
    if not (analysis.threshold_known(link) and analysis.slope_known()):
        return None
    return _mixed(analysis, link.rig, lambda p: _loss_draws(analysis, p, link, condition))


def _loss_draws(
    analysis: Analysis, p: Posterior, link: LinkKey, condition: str = ""
) -> Floats | None:
    margin, rules = analysis.margin_db(p, link, condition), analysis.rules
    return fitted.loss_range_draws(p, margin, loss=rules.loss, places=rules.places)


def _mixed(
    analysis: Analysis, rig: str, draws_of: Callable[[Posterior], Floats | None]
) -> Estimate | None:
    """Return a rig's range whose draws are taken from the fits under each law, by how likely it is."""
    if analysis.fit is None:
        return None
    laws = analysis.laws or LawFit(fits=(analysis.fit,), weights=(1.0,))
    parts = []
    for one, weight in zip(laws.fits, laws.weights, strict=True):
        draws = draws_of(one.posterior.of_rig(rig))
        if draws is None:
            return None
        taken = max(round(weight * len(draws)), 1)
        parts.append(draws[np.linspace(0, len(draws) - 1, taken).astype(int)])
    return fitted.as_distance(np.concatenate(parts))


def in_hand_range(analysis: Analysis, link: LinkKey) -> Estimate | None:
    """Return the distance [m] with the wanted level in hand; None where none can be said."""
    p = analysis.posterior
    if p is None or not (analysis.threshold_known(link) and analysis.slope_known()):
        return None
    wanted = analysis.rules.in_hand_db
    reach = _mixed(
        analysis, link.rig, lambda p: fitted.lg_distance(p, analysis.margin_db(p, link) - wanted)
    )
    return sensible(analysis, reach)


def deciding(analysis: Analysis, rig: str) -> Deciding:
    """Return the link a rig is judged by under the rules, with its range.

    Over the receivers the best one, any, or the one named; over directions the worse, an exchange,
    or the one named.
    """
    return analysis.once(("deciding", rig), lambda: _deciding(analysis, rig))


def _deciding(analysis: Analysis, rig: str) -> Deciding:
    links, rules = analysis.links_of(rig), analysis.rules
    named = [one for one in links if one.receiver == rules.receiver]
    if rules.receiver not in (BEST, ANY) and named:
        links = named
    by_receiver: dict[str, list[LinkKey]] = {}
    for link in links:
        by_receiver.setdefault(link.receiver, []).append(link)
    found = [_of_receiver(analysis, own) for own in by_receiver.values()]
    best = max(found, key=lambda one: (_reached(one), analysis.heard_on(one.link)))
    if len(found) == 1:
        return best
    if rules.receiver == ANY:
        return _of_any(analysis, [one.link for one in found], best)
    return Deciding(link=best.link, reach=best.reach, words=_also(best, "at its best receiver"))


def _reached(one: Deciding) -> float:
    return one.reach.estimate if one.reach else -1.0


def _also(one: Deciding, words: str) -> str:
    receiver = f", {one.link.receiver}" if one.link.receiver else ""
    return f"{one.words} {words}{receiver}".strip()


def _of_receiver(analysis: Analysis, links: list[LinkKey]) -> Deciding:
    """Return the deciding link among the directions of one receiver."""
    rules = analysis.rules
    named = [one for one in links if one.direction == rules.direction]
    if named:
        return Deciding(
            link=named[0],
            reach=link_range(analysis, named[0]),
            words=direction_words(named[0].direction) if len(links) > 1 else "",
        )
    if len(links) == 1:
        return Deciding(link=links[0], reach=link_range(analysis, links[0]))
    ranges = {link: link_range(analysis, link) for link in links}
    known = {link: reach for link, reach in ranges.items() if reach}
    worse = min(known, key=lambda link: known[link].estimate) if known else links[0]
    if rules.direction == EXCHANGE:
        up, down = _legs(links)
        reach = exchange_range(analysis, up, down) if up and down else None
        return Deciding(link=worse, reach=reach, words="question and answer together")
    return Deciding(
        link=worse,
        reach=_worse_range(analysis, links) if len(known) == len(links) else None,
        words=f"the worse direction, {direction_words(worse.direction)}",
    )


def _worse_range(analysis: Analysis, links: list[LinkKey]) -> Estimate | None:
    return _mixed(
        analysis,
        links[0].rig,
        lambda p: fitted.worse_of([_loss_draws(analysis, p, link) for link in links]),
    )


def _of_any(analysis: Analysis, links: list[LinkKey], best: Deciding) -> Deciding:
    rules = analysis.rules
    known = [link for link in links if analysis.threshold_known(link)]
    reach = best.reach
    if analysis.slope_known() and len(known) > 1:
        reach = _mixed(
            analysis,
            links[0].rig,
            lambda p: fitted.any_receiver_range_draws(
                p,
                known,
                [analysis.margin_db(p, link) for link in known],
                loss=rules.loss,
                places=rules.places,
            ),
        )
    return Deciding(link=best.link, reach=reach, words="heard by any receiver")


def exchange_range(analysis: Analysis, up: LinkKey, down: LinkKey) -> Estimate | None:
    """Return how far question and answer both arrive [m]."""
    return analysis.once(("exchange", up, down), lambda: _exchange_range(analysis, up, down))


def _exchange_range(analysis: Analysis, up: LinkKey, down: LinkKey) -> Estimate | None:
    p, rules = analysis.posterior, analysis.rules
    known = analysis.threshold_known(up) and analysis.threshold_known(down)
    if p is None or not known or not analysis.slope_known():
        return None
    return _mixed(
        analysis,
        up.rig,
        lambda p: fitted.exchange_range_draws(
            p,
            [analysis.margin_db(p, link) for link in (up, down)],
            loss=rules.loss,
            places=rules.places,
        ),
    )


def _legs(links: list[LinkKey]) -> tuple[LinkKey | None, LinkKey | None]:
    by_direction = {link.direction: link for link in links}
    return by_direction.get(TO_FIXED), by_direction.get(TO_CARRIED)


def exchanges(analysis: Analysis) -> list[tuple[str, str, Estimate | None]]:
    """Return rig, receiver and range of every exchange both legs of which were walked."""
    found = []
    for rig in analysis.rigs:
        for receiver in sorted({one.receiver for one in analysis.links_of(rig)}):
            own = [one for one in analysis.links_of(rig) if one.receiver == receiver]
            up, down = _legs(own)
            if up and down:
                reach = sensible(analysis, exchange_range(analysis, up, down))
                found.append((rig, receiver, reach))
    return found


def loss_at_most(analysis: Analysis, rig: str) -> tuple[float, float] | None:
    """Return the farthest stop of a rig that lost little, and the upper limit of the loss there.

    What can be said where no range can: distance [m], share.
    """
    best: tuple[float, float] | None = None
    for link in analysis.links_of(rig):
        for i in analysis.indices_of(link):
            loss, metres = analysis.loss_of(i), analysis.rows[i].distance_m
            if loss.high <= max(analysis.rules.loss, 0.1) and (best is None or metres > best[0]):
                best = metres, float(np.round(loss.high, 4))
    return best
