"""What one source told, and what it stands for where its lines do not say."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace

from inchmark.core.recipe.names import Act, Meaning
from inchmark.core.recipe.reader import Told


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """One transmission as one receiver knows it: a line of the frame log.

    Levels [dBm], S/N [dB], time [s since 1970]; `seq` is None until the visit gives it one.
    """

    rig: str = ""
    stop: str = ""
    seq: int | None = None
    heard: bool = True
    time_s: float | None = None
    rssi_dbm: float | None = None
    snr_db: float | None = None
    noise_dbm: float | None = None
    condition: str = ""
    direction: str = ""
    receiver: str = ""
    source: str = ""
    hops: float | None = None
    lat: float | None = None
    lon: float | None = None
    pass_number: int = 0  # which time the rig stood there
    line: int = 0  # of its log; a frame lost has that of the frame before it

    @property
    def stream(self) -> tuple[str, str, str]:
        """Return rig, direction and receiver: whose counter it is and who logged it."""
        return self.rig, self.direction, self.receiver


@dataclass(slots=True, kw_only=True)
class Source:
    """A source's lines as acts in order, and its constants by meaning."""

    name: str
    told: list[tuple[Act, Row]]
    shift_s: float = 0.0

    @property
    def acts(self) -> set[Act]:
        """Return what its lines tell of."""
        return {act for act, _ in self.told}

    def shifted(self, seconds: float) -> None:
        """Add seconds to all its times."""
        self.shift_s += seconds
        self.told = [
            (act, row if row.time_s is None else replace(row, time_s=row.time_s + seconds))
            for act, row in self.told
        ]


@dataclass(frozen=True, slots=True, kw_only=True)
class Constants:
    """What a source stands for: rig, stop, receiver, direction, condition."""

    values: Mapping[Meaning, str] = field(default_factory=dict)

    def rows(self, told: Iterable[Told]) -> list[tuple[Act, Row]]:
        """Return what lines told as rows; a rig nobody names is the sender's name."""
        return [(one.act, self._row(one)) for one in told]

    def _row(self, told: Told) -> Row:
        found = dict(self.values) | told.values
        sender = str(found.get(Meaning.SOURCE, ""))
        distance = found.get(Meaning.DISTANCE)
        place = f"{distance:g} m" if distance is not None else ""
        return Row(
            line=told.number,
            rig=str(found.get(Meaning.RIG, "") or sender),
            stop=str(found.get(Meaning.STOP, "") or place),
            seq=found.get(Meaning.SEQ),
            heard=told.act not in (Act.LOST, Act.SENT),
            time_s=told.time_s,
            rssi_dbm=found.get(Meaning.RSSI),
            snr_db=found.get(Meaning.SNR),
            noise_dbm=found.get(Meaning.NOISE),
            condition=str(found.get(Meaning.CONDITION, "")),
            direction=str(found.get(Meaning.DIRECTION, "")),
            receiver=str(found.get(Meaning.RECEIVER, "")),
            source=sender,
            hops=found.get(Meaning.HOPS),
            lat=found.get(Meaning.LAT),
            lon=found.get(Meaning.LON),
        )
