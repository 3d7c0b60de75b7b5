"""Which parts are RSSI, S/N and noise: by name, by unit, by their figures; and how they are written."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from statistics import median

from inchmark.core.recipe.columns import Column
from inchmark.core.recipe.names import Act, Meaning
from inchmark.core.recipe.numbers import Written
from inchmark.core.recipe.recipe import Question, Use

# names that say RSSI and nothing else; others (level, power, signal) may be something else
_PLAIN_RSSI = ("rssi", "rss")
_RAW = ("raw", "reg")
_RELATIVE = ("pct", "percent", "quality", "%", "prozent", "lq")
LEVELS = (Meaning.NOISE, Meaning.SNR, Meaning.RSSI)
LARGEST_LOSS = 160  # dB; a positive RSSI above it is no dBm with its sign left out


def level_uses(
    columns: Mapping[str, Column], percent: tuple[float, float] | None, questions: list[Question]
) -> list[Use]:
    """Return the parts that are levels; what cannot be told is asked."""
    columns = {name: c for name, c in columns.items() if not _of_the_sender(c)}
    uses: list[Use] = []
    for meaning in LEVELS:
        taken = {use.name for use in uses}
        free = [c for c in columns.values() if c.name not in taken]
        use = _named(meaning, free, percent, questions) or _by_unit(meaning, free)
        if use:
            uses.append(use)
    return [*uses, *_by_figures(columns, uses, questions)]


def _of_the_sender(column: Column) -> bool:
    """Tell whether a part is told of frames going out alone: their power is no level received."""
    plain = any(word in column.name.lower() for word in _PLAIN_RSSI)
    return column.acts == {Act.SENT} and not plain


def _named(
    meaning: Meaning,
    columns: Sequence[Column],
    percent: tuple[float, float] | None,
    questions: list[Question],
) -> Use | None:
    found = [c for c in columns if c.meaning is meaning and c.numeric and _possible(meaning, c)]
    if not found:
        return None
    best = max(found, key=lambda c: _likely(meaning, c))
    if meaning is Meaning.RSSI:
        return _rssi(best, percent, questions)
    written = _positive(best) if meaning is Meaning.NOISE else Written()
    return Use(name=best.name, meaning=meaning, written=written, reason=_why(best))


def _likely(meaning: Meaning, column: Column) -> tuple[bool, bool, bool, bool, int]:
    bare = column.name.lower()
    return (
        column.distinct > 1,
        meaning is not Meaning.RSSI or any(word in bare for word in _PLAIN_RSSI),
        column.stated_unit in ("dBm", "dB"),
        not any(word in bare for word in ("avg", "mean", "max", "min", "tx")),
        column.count,
    )


def _possible(meaning: Meaning, column: Column) -> bool:
    figures = column.numbers
    if meaning is Meaning.SNR:
        return column.stated_unit != "dBm" and -60 <= median(figures) <= 60
    if column.stated_unit in ("dB", "V", "mV", "m", "s", "ms"):
        return False
    return meaning is not Meaning.NOISE or column.stated_unit == "dBm" or abs(median(figures)) > 30


def _why(column: Column) -> str:
    unit = f", in {column.stated_unit}" if column.stated_unit else ""
    return ("its name says so" if column.meaning else "by its figures") + unit


def _positive(column: Column) -> Written:
    """Return how a level is written whose sign may have been left out."""
    return Written(factor=-1.0) if min(column.numbers) > 0 else Written()


def _rssi(column: Column, percent: tuple[float, float] | None, questions: list[Question]) -> Use:
    figures = column.numbers
    use = Use(name=column.name, meaning=Meaning.RSSI, reason=_why(column))
    if sum(x < 0 for x in figures) >= 0.5 * len(figures):
        return use
    relative = column.stated_unit == "%" or any(w in column.name.lower() for w in _RELATIVE)
    relative = relative or any(text.endswith("%") for text in column.texts[:20])
    fits = min(figures) >= 0 and max(figures) <= 100
    if percent is not None and fits and column.stated_unit != "dBm":
        low, high = percent
        written = Written(offset=low, factor=(high - low) / 100)
        why = f"{use.reason}; per cent of {low:g} to {high:g} dBm, as said"
        return Use(name=column.name, meaning=Meaning.RSSI, written=written, reason=why)
    if relative:
        questions.append(
            Question(
                f"“{column.name}” is in per cent ({min(figures):g} to {max(figures):g}). Of what? Say the RSSI at 0 and at 100 per cent.",
                "Like --percent -130..-50.",
            )
        )
        return use
    raw = any(word in column.name.lower() for word in _RAW)
    if raw or max(figures) > LARGEST_LOSS or min(figures) < 0 or median(figures) < 20:
        questions.append(
            Question(
                f"“{column.name}” runs from {min(figures):g} to {max(figures):g}, which is no RSSI in dBm. Is it a register, or per cent?",
                "For per cent give --percent LOW..HIGH; for a register keep the recipe (--keep FILE), set its factor and offset, and read with --recipe FILE.",
            )
        )
        return use
    why = f"{use.reason}; it is positive, so its minus sign was left out"
    return Use(name=column.name, meaning=Meaning.RSSI, written=Written(factor=-1.0), reason=why)


def _by_unit(meaning: Meaning, columns: Iterable[Column]) -> Use | None:
    """Return a part whose unit alone tells: dB is S/N, dBm is RSSI."""
    unit = {Meaning.SNR: "dB", Meaning.RSSI: "dBm"}.get(meaning)
    found = [
        c for c in columns
        if unit and c.unit == unit and c.numeric and (c.distinct > 1 or unit == "dB") and c.meaning not in LEVELS
    ]  # fmt: skip
    if not found:
        return None
    best = max(found, key=lambda c: (c.count, median(c.numbers)))
    return Use(name=best.name, meaning=meaning, reason=f"its unit is {unit}")


def _by_figures(
    columns: Mapping[str, Column], uses: Sequence[Use], questions: list[Question]
) -> list[Use]:
    """Return levels among parts that only their place names."""
    known = {use.meaning for use in uses}
    taken = {use.name for use in uses}
    free = [
        c for c in columns.values()
        if c.meaning is None and c.numeric and c.name not in taken
        and c.count >= 3 and c.distinct > 1
    ]  # fmt: skip
    found: list[Use] = []
    if Meaning.RSSI not in known:
        found += _levels_by_figures(free, known)
    taken = {use.name for use in found}
    if Meaning.SNR not in known and (Meaning.RSSI in known or found):
        ratios = [c for c in free if c.positional and c.name not in taken and _like_ratio(c)]
        if ratios:
            best = max(ratios, key=lambda c: (any("." in t or "," in t for t in c.texts), c.count))
            found.append(Use(name=best.name, meaning=Meaning.SNR, reason="figures like an S/N"))
    return found


def _levels_by_figures(free: Sequence[Column], known: set[Meaning]) -> list[Use]:
    levels = [c for c in free if min(c.numbers) >= -150 and median(c.numbers) <= -35]
    if not levels:
        bare = [
            c
            for c in free
            if c.positional and c.whole and 35 <= median(c.numbers) <= 140 and c.counts_up() < 0.6
        ]
        if len(bare) != 1 or max(bare[0].numbers) > LARGEST_LOSS:
            return []
        why = "figures like an RSSI without its minus sign"
        written = Written(factor=-1.0)
        return [Use(name=bare[0].name, meaning=Meaning.RSSI, written=written, reason=why)]
    # the level moves with distance, the noise hardly
    levels.sort(key=lambda c: (-c.count, -(max(c.numbers) - min(c.numbers))))
    found = [Use(name=levels[0].name, meaning=Meaning.RSSI, reason="figures like an RSSI in dBm")]
    if len(levels) > 1 and Meaning.NOISE not in known:
        found.append(
            Use(name=levels[1].name, meaning=Meaning.NOISE, reason="figures like noise in dBm")
        )
    return found


def _like_ratio(column: Column) -> bool:
    figures = column.numbers
    telling = any("." in t or "," in t for t in column.texts) or min(figures) < 0
    counts = column.whole and column.counts_up() >= 0.6
    return telling and not counts and min(figures) >= -40 and max(figures) <= 80
