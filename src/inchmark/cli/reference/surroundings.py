"""Check tables of what is in the way and on the air: materials, rain, beams, collisions."""

from __future__ import annotations

from inchmark.cli.reference.rows import Row, Values, number
from inchmark.core.airtime.collisions import Traffic
from inchmark.core.antenna.beam import beam_across_m, beam_gain_dbi, pointing_loss_db
from inchmark.core.propagation.materials import MATERIALS, Material, Sheet
from inchmark.core.propagation.rain import rain_holds_at, rain_law

EDITION = "P.2040-3"


def building_materials(row: Row) -> Values:
    """Return a material's properties at a frequency, and a sheet of it; ours where it is that edition's."""
    own = MATERIALS[row["material"]]
    a, b, c, d = (number(row, f"param_{one}") for one in "abcd")
    material = (
        own
        if row["edition"] == EDITION
        else Material(name=own.name, a=a, b=b, c=c, d=d, from_ghz=own.from_ghz, to_ghz=own.to_ghz)
    )
    f = number(row, "frequency_ghz") * 1e9
    sheet = Sheet(
        material=material,
        thickness_m=number(row, "thickness_m"),
        incidence_deg=number(row, "incidence_deg"),
        crossed=row["polarisation"] == "te",
    )
    eta = material.permittivity(f)
    return {
        "eps_real": eta.real,
        "conductivity_s_per_m": material.conductivity_s_per_m(f),
        "eps_imag": -eta.imag,
        "attenuation_db_per_m": material.attenuation_db_per_m(f),
        "face_reflection_loss_db": sheet.face_loss_db(f),
        "slab_loss_db": sheet.loss_db(f),
        "slab_reflection_db": sheet.reflection_db(f),
        "inside_range": float(material.holds_at(f)),
    }


def rain(row: Row) -> Values:
    """Return the law of rain at a frequency, and what a rate takes."""
    f = number(row, "frequency_ghz") * 1e9
    law = rain_law(
        f,
        elevation_deg=number(row, "path_elevation_deg"),
        tilt_deg=number(row, "polarisation_tilt_deg"),
    )
    return {
        "k": law.k,
        "alpha": law.alpha,
        "specific_attenuation_db_per_km": law.attenuation_db_per_km(
            number(row, "rain_rate_mm_per_h")
        ),
        "inside_range": float(rain_holds_at(f)),
    }


def beam(row: Row) -> Values:
    """Return a beam's gain, what pointing beside it costs, or how wide it falls."""
    if row["quantity"] == "gain_dbi":
        widths = number(row, "beam_width_e_deg"), number(row, "beam_width_h_deg")
        return {"value": beam_gain_dbi(*widths, deg2=number(row, "constant_deg2"))}
    if row["quantity"] == "pointing_loss_db":
        given = ("pointing_error_e_deg", "beam_width_e_deg")
        other = ("pointing_error_h_deg", "beam_width_h_deg")
        return {"value": pointing_loss_db(*(number(row, one) for one in (*given, *other)))}
    width = row["beam_width_e_deg"] or row["beam_width_h_deg"]
    return {"value": beam_across_m(float(width), number(row, "distance_m"))}


def aloha(row: Row) -> Values:
    """Return what collisions leave of the frames of many senders."""
    traffic = Traffic(
        senders=int(row["senders"]),
        airtime_s=number(row, "airtime_s"),
        period_s=number(row, "period_s"),
    )
    success = {
        "periodic_random_phase": traffic.success_at_random_phases,
        "poisson_other_senders": traffic.success_at_random_times,
        "infinite_population": traffic.success_of_many,
    }[row["model"]]()
    return {
        "offered_load": traffic.offered_load,
        "success_probability": success,
        "collision_probability": 1 - success,
        "throughput": traffic.throughput(success),
    }
