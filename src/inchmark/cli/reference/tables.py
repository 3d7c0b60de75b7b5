"""Check the core against tables of reference values: one function per table, found by its name.

A row passes when abs(value - expected) <= tolerance; tolerance 0 means an exact integer.
"""

from __future__ import annotations

import csv
import json
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from inchmark.cli.reference import antennas, formulas, path_fit, paths, surroundings
from inchmark.cli.reference.rows import Row, Values, number
from inchmark.core import geodesy, noise
from inchmark.core.airtime import duty_cycle, packets
from inchmark.core.airtime.chirp import ChirpSetting
from inchmark.core.energy import UAH_PER_MC, Battery, Load, Phase
from inchmark.core.exchange import share_heard
from inchmark.core.propagation.free_space import free_space_loss_db
from inchmark.core.propagation.log_distance import range_factor
from inchmark.core.reception import proportion
from inchmark.core.reception.paired import PairedCounts


@dataclass(slots=True)
class TableResult:
    """One table: rows looked at, the worst error as a share of its tolerance, what failed."""

    name: str
    rows: int = 0
    skipped: list[str] = field(default_factory=list)  # rows of a topic the core does not have yet
    worst: float = 0.0
    failed: list[str] = field(default_factory=list)


def check_tables(folder: Path) -> tuple[list[TableResult], list[str]]:
    """Return the results of every known table in a folder, and the names of unknown ones."""
    results, unknown = [], []
    for path in sorted(folder.glob("*.csv")):
        if path.stem in TABLES:
            results.append(check_table(path))
        else:
            unknown.append(path.stem)
    return results, unknown


def check_table(path: Path) -> TableResult:
    """Return the result of one table."""
    result = TableResult(path.stem)
    compute = TABLES[path.stem](path.parent)
    with path.open(newline="", encoding="utf-8") as file:
        for row in csv.DictReader(file):
            _check_row(row, compute, result)
    return result


def _check_row(row: Row, compute: Callable[[Row], Values], result: TableResult) -> None:
    try:
        values = compute(row)
    except NotImplementedError:
        result.skipped.append(row["case_id"])
        return
    except ValueError as wrong:
        result.rows += 1
        result.worst = np.inf
        result.failed.append(f"{row['case_id']}: refused: {wrong}")
        return
    result.rows += 1
    for name, expected, tolerance in _expected(row):
        if name not in values:
            result.worst = np.inf
            result.failed.append(f"{row['case_id']}: no value for {name}")
            continue
        error = abs(values[name] - expected)
        share = error / tolerance if tolerance else (0.0 if error == 0 else np.inf)
        result.worst = float(np.fmax(result.worst, np.inf if np.isnan(share) else share))
        if not share <= 1:  # a value that is no number has no error that could be small
            result.failed.append(
                f"{row['case_id']}: {name} is {values[name]:.10g}, expected {expected:.10g} ± {tolerance:g}"
            )


def _expected(row: Row) -> Iterator[tuple[str, float, float]]:
    for column, text in row.items():
        if column.startswith("expected_") and text:
            name = column.removeprefix("expected_")
            yield name, float(text), float(row[f"tolerance_{name}"])


def _free_space(row: Row) -> Values:
    return {
        "loss_db": float(
            free_space_loss_db(number(row, "distance_m"), number(row, "frequency_mhz") * 1e6)
        )
    }


def _geodesic(row: Row) -> Values:
    ends = [
        geodesy.Place(
            lat_deg=number(row, f"lat{i}_deg"),
            lon_deg=number(row, f"lon{i}_deg"),
            height_m=number(row, f"height{i}_m"),
        )
        for i in (1, 2)
    ]
    course = geodesy.geodesic(*ends)
    return {
        "distance_m": course.distance_m,
        "azimuth_deg": _near(course.azimuth_deg, row["expected_azimuth_deg"]),
        "back_azimuth_deg": _near(course.back_azimuth_deg, row["expected_back_azimuth_deg"]),
        "slant_simple_m": formulas.slant_distance_m(*ends),
        "slant_ecef_m": geodesy.chord_m(*ends),
    }


def _near(azimuth_deg: float, expected: str) -> float:
    """Return the azimuth in the turn in which the expected one is written."""
    return azimuth_deg + 360 * round((float(expected or azimuth_deg) - azimuth_deg) / 360)


def _chirp(row: Row) -> Values:
    forced = row["low_data_rate_setting"]
    setting = ChirpSetting(
        spreading_factor=int(row["spreading_factor"]),
        bandwidth_hz=number(row, "bandwidth_khz") * 1e3,
        coding_rate_denominator=int(row["coding_rate_denominator"]),
        preamble_symbols=int(row["preamble_symbols"]),
        explicit_header=row["explicit_header"] == "1",
        payload_crc=row["payload_crc"] == "1",
        low_data_rate=None if forced == "auto" else forced == "1",
    )
    payload = int(row["payload_bytes"])
    return {
        "symbol_time_ms": setting.symbol_time_s * 1e3,
        "low_data_rate_used": float(setting.low_data_rate_used),
        "preamble_time_ms": setting.preamble_time_s * 1e3,
        "payload_symbols": float(setting.payload_symbols(payload)),
        "airtime_ms": setting.airtime_s(payload) * 1e3,
    }


def _packets(row: Row) -> Values:
    if row["quantity"] == "duty_cycle":
        airtime, duty = number(row, "airtime_ms") / 1e3, float(row["duty_cycle_percent"])
        return {
            "messages_per_hour": float(duty_cycle.messages_per_hour(airtime, duty)),
            "min_interval_s": duty_cycle.min_interval_s(airtime, duty),
        }
    phy, payload = row["phy"], int(row["payload_bytes"])
    if phy == "gfsk":
        parts = {
            f"{n}_bytes": int(row[f"{n}_bytes"])
            for n in ("preamble", "sync", "length", "address", "crc")
        }
        seconds = packets.gfsk_airtime_s(
            bit_rate_bit_s=number(row, "bitrate_kbps") * 1e3, payload_bytes=payload, **parts
        )
    elif phy.startswith("ieee802154"):
        seconds = packets.ieee802154_airtime_s(psdu_bytes=payload, phy=phy)
    else:
        seconds = packets.low_energy_airtime_s(
            phy=phy, payload_bytes=payload, mic_bytes=int(row["mic_bytes"] or 0)
        )
    return {"airtime_us": seconds * 1e6}


def _noise(row: Row) -> Values:
    if row["quantity"] == "css_snr_limit_db":
        return {"value": noise.chirp_snr_limit_db(int(row["spreading_factor"]))}
    bandwidth, temperature = number(row, "bandwidth_khz") * 1e3, number(row, "temperature_k")
    if row["quantity"] == "noise_floor_dbm":
        return {"value": float(noise.noise_floor_dbm(bandwidth, temperature_k=temperature))}
    level = noise.sensitivity_dbm(
        bandwidth_hz=bandwidth,
        noise_figure_db=number(row, "noise_figure_db"),
        required_snr_db=number(row, "snr_required_db"),
        temperature_k=temperature,
    )
    return {"value": float(level)}


def _proportion(row: Row) -> Values:
    confidence = number(row, "confidence")
    if row["quantity"] == "interval":
        methods = {
            "wilson": proportion.wilson,
            "clopper_pearson": formulas.clopper_pearson,
            "jeffreys": formulas.jeffreys,
        }
        limits = methods[row["method"]](
            int(row["successes"]), int(row["trials"]), confidence=confidence
        )
        return {"lower": limits.low, "upper": limits.high}
    rate = number(row, "error_rate")
    if row["quantity"] == "zero_loss_packets":
        return {"packets": float(proportion.zero_loss_frames(rate, confidence=confidence))}
    if row["quantity"] == "packets_for_half_width":
        wanted = number(row, "target_half_width")
        return {
            "packets": float(proportion.frames_for_half_width(rate, wanted, confidence=confidence))
        }
    half = formulas.expected_half_width(
        rate, int(row["trials"]), confidence=confidence, method=row["method"]
    )
    return {"half_width": half}


def _coverage(row: Row) -> Values:
    if row["quantity"] == "location_probability":
        return {
            "value": float(
                formulas.location_probability(number(row, "margin_db"), number(row, "sigma_db"))
            )
        }
    if row["quantity"] == "fade_margin_db":
        return {
            "value": float(
                formulas.fade_margin_db(number(row, "probability"), number(row, "sigma_db"))
            )
        }
    return {"value": float(range_factor(number(row, "added_db"), number(row, "exponent")))}


def _line_fit(folder: Path) -> Callable[[Row], Values]:
    text = (folder / "log_distance_datasets.json").read_text(encoding="utf-8")
    sets = {one["dataset_id"]: one for one in json.loads(text)["datasets"]}

    def compute(row: Row) -> Values:
        one = sets[row["dataset_id"]]
        loss = one["eirp_plus_receive_gain_dbm"] - np.array(one["received_power_dbm"])
        fit = path_fit.fit_straight_line(
            np.array(one["distance_m"]), loss, reference_m=number(row, "reference_distance_m")
        )
        return {
            "path_loss_at_reference_db": fit.loss_at_reference_db,
            "path_loss_ci_low_db": fit.loss_limits_db.low,
            "path_loss_ci_high_db": fit.loss_limits_db.high,
            "exponent": fit.exponent,
            "exponent_ci_low": fit.exponent_limits.low,
            "exponent_ci_high": fit.exponent_limits.high,
            "residual_sigma_db": fit.sigma_db,
            "r_squared": fit.r_squared,
        }

    return compute


def _cut_normal(folder: Path) -> Callable[[Row], Values]:
    text = (folder / "truncated_normal_samples.json").read_text(encoding="utf-8")
    samples = {one["sample_id"]: one["values_dbm"] for one in json.loads(text)["samples"]}

    def compute(row: Row) -> Values:
        censored = int(row["censored_count"]) if row["kind"] == "censored" else None
        fit = path_fit.fit_cut_normal(
            np.array(samples[row["sample_id"]]), number(row, "limit_dbm"), censored=censored
        )
        values = {
            "sample_mean_dbm": fit.sample_mean_dbm,
            "sample_sd_db": fit.sample_sd_db,
            "finite_estimate": float(fit.finite),
        }
        found = {
            "mean_dbm": fit.mean_dbm,
            "sigma_db": fit.sigma_db,
            "log_likelihood": fit.log_likelihood,
        }
        return values | {name: value for name, value in found.items() if value is not None}

    return compute


def _energy(row: Row) -> Values:
    durations = [float(x) / 1e3 for x in row["durations_ms"].split(";")]
    currents = [float(x) / 1e3 for x in row["currents_ma"].split(";")]
    load = Load(
        phases=[Phase(duration_s=d, current_a=i) for d, i in zip(durations, currents, strict=True)],
        sleep_current_a=number(row, "sleep_current_ua") * 1e-6,
        period_s=number(row, "message_period_s"),
    )
    battery = Battery(
        capacity_ah=number(row, "capacity_mah") / 1e3,
        usable_share=number(row, "usable_fraction"),
        self_discharge_per_year=number(row, "self_discharge_percent_per_year") / 100,
        model=row["self_discharge_model"],
    )
    return {
        "active_charge_uah": load.active_charge_c * 1e3 * UAH_PER_MC,
        "active_charge_mc": load.active_charge_c * 1e3,
        "active_energy_uwh": load.active_energy_j(number(row, "supply_v")) / 3600 * 1e6,
        "average_current_ua": load.average_current_a * 1e6,
        "battery_life_days": battery.life_h(load.average_current_a) / 24,
    }


def _plain(compute: Callable[[Row], Values]) -> Callable[[Path], Callable[[Row], Values]]:
    return lambda folder: compute


def _paired(row: Row) -> Values:
    counts = PairedCounts(
        both=int(row["both_heard"]),
        first=int(row["only_first_heard"]),
        second=int(row["only_second_heard"]),
        neither=int(row["neither_heard"]),
    )
    newcombe = counts.interval()
    return {
        "exact_p": counts.exact_p(),
        "mid_p": counts.mid_p(),
        "difference": counts.difference,
        "newcombe10_low": newcombe.low,
        "newcombe10_high": newcombe.high,
        **formulas.other_paired(counts),
    }


def _exchange(row: Row) -> Values:
    margins, spreads = (
        [float(x) for x in row[name].split(";")] for name in ("margins_db", "own_spreads_db")
    )
    common, tries = number(row, "common_spread_db"), int(row["tries"])
    needs_all = row["quantity"] == "exchange"
    return {"value": share_heard(margins, spreads, common, tries=tries, needs_all=needs_all)}


TABLES: dict[str, Callable[[Path], Callable[[Row], Values]]] = {
    "free_space": _plain(_free_space),
    "geodesic": _plain(_geodesic),
    "airtime_css": _plain(_chirp),
    "airtime_packets": _plain(_packets),
    "noise_sensitivity": _plain(_noise),
    "proportion_intervals": _plain(_proportion),
    "log_normal_coverage": _plain(_coverage),
    "antenna_match": _plain(antennas.matched),
    "polarisation_quarterwave": _plain(antennas.polarisation),
    "touchstone": antennas.touchstone,
    "touchstone_renormalise": antennas.renormalise,
    "energy": _plain(_energy),
    "log_distance_fit": _line_fit,
    "truncated_normal": _cut_normal,
    "fresnel_horizon": _plain(paths.fresnel_horizon),
    "knife_edge": _plain(paths.knife),
    "two_ray": _plain(paths.two_rays),
    "diffraction_profile": paths.diffraction,
    "building_vegetation": _plain(paths.building_vegetation),
    "mcnemar_paired": _plain(_paired),
    "budget_exchange": _plain(_exchange),
    "building_materials": _plain(surroundings.building_materials),
    "rain": _plain(surroundings.rain),
    "beam_gain": _plain(surroundings.beam),
    "aloha": _plain(surroundings.aloha),
}
