"""Forms of the parts."""

from typing import Any

from django import forms

from inchmark.pages.fields import GainField, PowerField, QuantityField, model_choice
from inchmark.pages.folds import Fold, folded
from inchmark.pages.rows import Column, RowsField
from inchmark.shelf.adapters.parts import CONNECTORS
from inchmark.shelf.models import Antenna, Battery, Feed, Module, Surrounding, Unit
from inchmark.studies.models import Study


def _connector(label: str) -> forms.ChoiceField:
    return forms.ChoiceField(label=label, choices=list(CONNECTORS.items()), initial="wire")


MODULE_GROUPS = (
    ("Module", ("name", "bands", "power_low_dbm", "power_high_dbm", "noise_figure_db", "price")),
    ("Transmitter", ("power_step_db", "transmit_currents", "connector")),
    (
        "Receiver",
        (
            "sensitivities",
            "rssi_step_db",
            "rssi_low_dbm",
            "rssi_high_dbm",
            "rssi_offset_db",
        ),
    ),
    ("Currents and supply", ("sleep_a", "standby_a", "receive_a", "supply_v")),
    ("Crystal, console, remarks", ("crystal_ppm", "template", "note")),
)


class PartForm(forms.ModelForm):
    """What the forms of all parts share."""

    def __init__(self, *args: Any, study: Study, **kwargs: Any) -> None:
        """Know whose shelf it is."""
        super().__init__(*args, **kwargs)
        self.study = study

    def grouped(self) -> list[Fold]:
        """Return the fields in groups, the first to stand open; one group if the form names none."""
        return folded(self, getattr(self, "GROUPS", (("", tuple(self.fields)),)))


class ModuleForm(PartForm):
    """A radio module."""

    GROUPS = MODULE_GROUPS
    connector = _connector("Connector")
    supply_v = QuantityField("V", label="Supply voltage", initial=3.3)
    power_low_dbm = PowerField(label="Lowest power", initial=-9.0)
    power_high_dbm = PowerField(label="Highest power", help_text="“14 dBm” or “25 mW”.")
    transmit_currents = RowsField(
        [Column("power", "dBm"), Column("current", "A", "mA")],
        ascending=True,
        label="Transmit current by power",
        help_text="One line each, like “14 dBm, 38 mA”.",
    )
    bands = RowsField(
        [Column("from", "Hz", "MHz"), Column("to", "Hz", "MHz")],
        ascending=True,
        label="Bands",
        help_text="One line each, like “863 MHz, 870 MHz”.",
    )
    sensitivities = RowsField(
        [Column("setting"), Column("level", "dBm"), Column("PER", "%")],
        label="Datasheet sensitivities",
        help_text="One line each: setting, level, PER, like “SF7 125 kHz, -124, 1”.",
    )
    sleep_a = QuantityField("A", bare_unit="uA", label="Sleep", required=False)
    standby_a = QuantityField("A", bare_unit="mA", label="Standby", required=False)
    receive_a = QuantityField("A", bare_unit="mA", label="Receive", required=False)

    class Meta:
        model = Module
        fields = [name for _, names in MODULE_GROUPS for name in names]
        labels = {
            "crystal_ppm": "Crystal tolerance (ppm)",
            "power_step_db": "Power step (dB)",
            "noise_figure_db": "Noise figure (dB)",
            "rssi_step_db": "RSSI step (dB)",
            "rssi_low_dbm": "RSSI stops at, weak end (dBm)",
            "rssi_high_dbm": "RSSI stops at, strong end (dBm)",
            "rssi_offset_db": "RSSI reads above the true level by (dB)",
        }
        help_texts = {
            "template": "The order its console takes parameters in, like “{sf},{bw:code},{cr:code},{preamble}”."
        }


ANTENNA_GROUPS = (
    (
        "Antenna",
        (
            "name",
            "type",
            "gain_dbi",
            "price",
        ),
    ),
    ("How it is made", ("polarisation", "connector", "impedance_ohm", "size_m", "note")),
    ("A wire: what to cut it for", ("cut_for_hz", "wave", "velocity_factor")),
    ("A magnetic loop or rod", ("loop_diameter_m", "turns", "quality")),
)


class AntennaForm(PartForm):
    """An antenna."""

    GROUPS = ANTENNA_GROUPS
    gain_dbi = GainField(
        label="Gain",
        required=False,
        help_text="“2.15 dBi” or “0 dBd” (the same). Magnetic antennas have none.",
    )
    size_m = QuantityField("m", bare_unit="mm", label="Largest size", required=False)
    connector = _connector("Connector")
    cut_for_hz = QuantityField("Hz", bare_unit="MHz", label="Frequency", required=False)
    loop_diameter_m = QuantityField("m", bare_unit="mm", label="Diameter", required=False)
    quality = forms.FloatField(
        label="Q, tuned and loaded", required=False, help_text="Empty: 30, common practice."
    )

    def clean_quality(self) -> float:
        """Take an empty Q for the usual one."""
        usual = Antenna._meta.get_field("quality").default
        return float(self.cleaned_data["quality"] or usual)

    class Meta:
        model = Antenna
        fields = [name for _, names in ANTENNA_GROUPS for name in names]
        labels = {"impedance_ohm": "Impedance (Ω)"}
        help_texts = {
            "velocity_factor": "Bare thin wire about 0.95, insulated less (common practice)."
        }


class FeedForm(PartForm):
    """A feed."""

    length_m = QuantityField("m", label="Length", initial=0.0)
    cable_rows = RowsField(
        [Column("frequency", "Hz", "MHz"), Column("loss", "dB")],
        ascending=True,
        label="Cable loss per 100 m",
        help_text="One line each, like “900 MHz, 46 dB”; between lines on the root of frequency.",
    )
    near_connector = _connector("Connector at the radio")
    far_connector = _connector("Connector at the antenna")
    links = RowsField(
        [
            Column("part"),
            Column("towards the radio"),
            Column("towards the antenna"),
            Column("loss", "dB"),
            Column("frequency", "Hz", "MHz"),
        ],
        label="Further parts, towards the antenna",
        help_text="One line each, like “adapter, SMA male, N female, 0.2 dB, 868 MHz”; its loss goes with the root of the frequency.",
    )

    class Meta:
        model = Feed
        fields = [
            "name",
            "cable",
            "cable_rows",
            "length_m",
            "joints",
            "joint_loss_db",
            "near_connector",
            "far_connector",
            "links",
            "impedance_ohm",
            "price",
            "note",
        ]
        labels = {"joint_loss_db": "Loss of a joint (dB)", "impedance_ohm": "Impedance (Ω)"}
        help_texts = {"joint_loss_db": "0.1 dB for a good pair (common practice)."}

    def clean_links(self) -> list[list[Any]]:
        """Take connectors by the name people write."""
        links: list[list[Any]] = self.cleaned_data["links"] or []
        keys = {name.casefold(): key for key, name in CONNECTORS.items()} | {
            key: key for key in CONNECTORS
        }
        found = []
        for i, (name, near, far, loss, at_hz) in enumerate(links, start=1):
            ends = [keys.get(one.strip().casefold()) for one in (near, far)]
            if None in ends:
                wrong = near if ends[0] is None else far
                raise forms.ValidationError(
                    f"Line {i}: “{wrong}” is no connector. Known are {', '.join(CONNECTORS.values())}."
                )
            if not 0 <= loss <= 60:
                raise forms.ValidationError(f"Line {i}: a loss is from 0 to 60 dB.")
            found.append([name[:60], *ends, loss, at_hz])
        return found


class BatteryForm(PartForm):
    """A battery."""

    capacity_ah = QuantityField(
        "Ah", bare_unit="mAh", label="Capacity", help_text="“19 Ah” or “2400 mAh”."
    )
    voltage_v = QuantityField("V", label="Voltage", initial=3.6)
    cutoff_v = QuantityField("V", label="Cut-off voltage", required=False)
    keep_on_a = QuantityField(
        "A",
        bare_unit="mA",
        label="Switches off under",
        required=False,
        help_text="Power banks only: the draw under which it switches itself off.",
    )

    class Meta:
        model = Battery
        fields = [
            "name",
            "capacity_ah",
            "voltage_v",
            "usable_percent",
            "self_discharge_percent",
            "cutoff_v",
            "keep_on_a",
            "price",
            "note",
        ]
        labels = {
            "usable_percent": "Usable share (%)",
            "self_discharge_percent": "Self-discharge a year (%)",
        }


SURROUNDING_GROUPS = (
    ("Surrounding", ("name", "walked", "stops", "frequency_hz", "note")),
    ("Slope", ("exponent", "exponent_low", "exponent_high")),
    ("Beyond free space", ("offset_db", "at_m", "offset_low_db", "offset_high_db")),
    ("Between places", ("shadowing_db", "shadowing_low_db", "shadowing_high_db")),
)


class SurroundingForm(PartForm):
    """What a kind of place does to radio, as a walk found it or somebody knows it."""

    GROUPS = SURROUNDING_GROUPS
    at_m = QuantityField("m", label="At a distance of", initial=100.0)
    frequency_hz = QuantityField("Hz", bare_unit="MHz", label="Walked at", required=False)

    class Meta:
        model = Surrounding
        fields = [name for _, names in SURROUNDING_GROUPS for name in names]
        labels = {
            "exponent_low": "95 %, from",
            "exponent_high": "to",
            "offset_db": "Loss beyond free space (dB)",
            "offset_low_db": "95 %, from (dB)",
            "offset_high_db": "to (dB)",
            "shadowing_db": "Spread between places (dB)",
            "shadowing_low_db": "95 %, from (dB)",
            "shadowing_high_db": "to (dB)",
        }
        help_texts = {
            "exponent": "2 is free space; 3 to 4 near the ground (common practice).",
            "offset_db": "Holds for antennas and RSSI like those of the walk.",
        }


class UnitForm(PartForm):
    """One physical piece."""

    class Meta:
        model = Unit
        fields = ["serial", "module", "antenna", "batch", "note"]
        labels = {"module": "Piece of the module", "antenna": "or of the antenna"}

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        """Offer the study's own modules and antennas."""
        super().__init__(*args, **kwargs)
        model_choice(self, "module").queryset = self.study.module_parts.all()
        model_choice(self, "antenna").queryset = self.study.antenna_parts.all()


class CalibrationForm(forms.Form):
    """A known level at the connector, and what the module reads."""

    true_dbm = PowerField(label="True level at the connector")
    reads_dbm = PowerField(label="The module reads")
    source = forms.CharField(
        max_length=80, label="Known from", help_text="Like “generator and 60 dB, 12 Nov”."
    )


PART_FORMS: dict[str, type[PartForm]] = {
    "modules": ModuleForm,
    "antennas": AntennaForm,
    "feeds": FeedForm,
    "batteries": BatteryForm,
    "surroundings": SurroundingForm,
    "units": UnitForm,
}
