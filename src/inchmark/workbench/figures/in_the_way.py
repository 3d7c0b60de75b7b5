"""What stands in the way: sheets of building material, wood and rain at a frequency, the worst first."""

from __future__ import annotations

from inchmark.core.propagation.cover import woodland_figures
from inchmark.core.propagation.materials import MATERIALS, Sheet
from inchmark.core.propagation.rain import rain_holds_at, rain_law
from inchmark.core.propagation.woodland import woodland_loss_db
from inchmark.core.wording import decibels
from inchmark.workbench.figures.answers import Answers, Line

P2040 = "ITU-R P.2040-3, from memory"
USUAL_M = {
    "concrete": 0.2, "brick": 0.115, "plasterboard": 0.0125, "wood": 0.04, "glass": 0.006,
    "chipboard": 0.02, "metal": 0.001,
}  # fmt: skip
HARD_RAIN_MM_H = 50.0


def in_the_way_answers(*, frequency_hz: float, thickness_m: float | None, wood_m: float) -> Answers:
    """Return what materials cost at a frequency, ranked; of a thickness, or the usual one of each."""
    sheets = []
    for name, usual in USUAL_M.items():
        material, thick = MATERIALS[name], thickness_m or usual
        loss = Sheet(material=material, thickness_m=thick).loss_db(frequency_hz)
        beyond = (
            "" if material.holds_at(frequency_hz) else ", beyond the frequencies it is stated for"
        )
        value = decibels(loss, sign=False) if loss < 200 else "over 200 dB: nothing comes through"
        sheets.append((loss, Line(what=f"{name}, {1000 * thick:g} mm", value=value, formula="single sheet, met straight on, bounces inside included", source=P2040 + beyond)))  # fmt: skip
    most, per_metre = woodland_figures(frequency_hz)
    wood = float(woodland_loss_db(wood_m, most_db=most, per_metre_db=per_metre))
    sheets.append((wood, Line(what=f"{wood_m:g} m of woodland", value=decibels(wood, sign=False), formula="A_m (1 − e^(−d γ / A_m))", source="ITU-R P.833")))  # fmt: skip
    rain = rain_law(frequency_hz).attenuation_db_per_km(HARD_RAIN_MM_H)
    stated = "" if rain_holds_at(frequency_hz) else ", below the frequencies it is stated for"
    sheets.append((rain, Line(what="a kilometre of hard rain (50 mm/h)", value=f"{rain:.2g} dB", formula="k R^α", source="ITU-R P.838-3" + stated)))  # fmt: skip
    lines = [line for _, line in sorted(sheets, key=lambda pair: -pair[0])]
    return Answers(
        lines=lines,
        says=[
            "A frame of metal, reinforcement, foil on insulation or a metal coat on glass costs 10 to 30 dB more than the sheet alone (common practice).",
            "A body beside the antenna costs 3 to 15 dB, the inside of a vehicle 5 to 20 (common practice): measure it on a walk.",
        ],
    )
