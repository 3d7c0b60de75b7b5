"""Lengths and beams: what a frequency means in metal."""

from __future__ import annotations

from inchmark.core.antenna.beam import beam_across_m, beam_gain_dbi, pointing_loss_db
from inchmark.core.antenna.lengths import (
    far_field_distance_m,
    quarter_wave_helix,
    wire_length_m,
)
from inchmark.core.propagation.free_space import wavelength_m
from inchmark.core.wording import decibels, distance, number
from inchmark.workbench.figures.answers import DEFINITION, PRACTICE, Answers, Line

WAVES = {
    "quarter": "a quarter wave",
    "half": "half a wave",
    "five-eighths": "five eighths of a wave",
}


def millimetres(metres: float) -> str:
    """Return a length as it is cut: in millimetres, to a tenth below 10 cm."""
    return f"{1000 * metres:.1f} mm" if metres < 0.1 else f"{1000 * metres:.0f} mm"


def _helix(frequency_hz: float, former_m: float, pitch_m: float) -> list[Line]:
    one = quarter_wave_helix(frequency_hz, diameter_m=former_m, pitch_m=pitch_m)
    doubt = "" if one.in_range else "; beyond what the formula was made for"
    source = f"Kandoian and Sichak 1953, from memory{doubt}: wind long and trim"
    return [
        Line(what="a quarter wave, wound", value=f"{number(one.turns)} turns, {millimetres(one.height_m)} high", formula="height = V λ / 4, V = (1 + 20 (D / s)^2.5 (D / λ)^0.5)^−½", source=source),
        Line(what="its wire", value=f"{millimetres(one.wire_m)}, velocity factor {number(one.velocity_factor, 3)}", formula="turns × √((π D)² + s²)", source="geometry"),
    ]  # fmt: skip


def antenna_answers(
    *,
    frequency_hz: float,
    velocity_factor: float,
    largest_m: float | None,
    width_deg: float | None,
    off_deg: float | None,
    former_m: float | None = None,
    pitch_m: float | None = None,
) -> Answers:
    """Return wavelength, wire lengths, near field, and what a beam gives and a pointing error costs."""
    lines = [
        Line(what="wavelength", value=millimetres(float(wavelength_m(frequency_hz))), formula="c / f", source=DEFINITION),
        *(
            Line(
                what=words,
                value=millimetres(wire_length_m(frequency_hz, wave=wave, velocity_factor=velocity_factor)),
                formula=f"share × velocity factor {number(velocity_factor, 2)} × λ", source=f"{PRACTICE}: cut long and trim",
            )
            for wave, words in WAVES.items()
        ),
    ]  # fmt: skip
    if former_m is not None and pitch_m is not None:
        lines += _helix(frequency_hz, former_m, pitch_m)
    if largest_m is not None:
        far = far_field_distance_m(largest_m, frequency_hz)
        lines.append(Line(what="far field begins", value=distance(far), formula="2 D² / λ", source="IEEE 145, from memory"))  # fmt: skip
    if width_deg is not None:
        lines.append(Line(what="gain of a beam so wide both ways", value=f"{number(beam_gain_dbi(width_deg, width_deg))} dBi", formula="10 lg(32 400 / (θE θH))", source=PRACTICE))  # fmt: skip
        lines.append(Line(what="how wide it is 1 km away", value=distance(beam_across_m(min(width_deg, 179.0), 1000.0)), formula="2 d tan(θ / 2)", source="geometry"))  # fmt: skip
        if off_deg is not None:
            lost = pointing_loss_db(off_deg, width_deg)
            lines.append(Line(what=f"pointing {number(off_deg)}° beside", value=f"costs {decibels(lost, sign=False)}", formula="12 (error / width)²", source=f"{PRACTICE}, main lobe"))  # fmt: skip
    return Answers(lines=lines)
