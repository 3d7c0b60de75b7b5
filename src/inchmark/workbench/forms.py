"""Questions of the workbench: each a handful of typed quantities, with what a newcomer may begin from."""

from __future__ import annotations

from typing import ClassVar

from django import forms

from inchmark.formats.limits import regions
from inchmark.pages.fields import GainField, PowerField, QuantityField

SURROUNDINGS = [
    ("free_space", "free space: nothing near the path"),
    ("two_ray", "flat ground, low antennas"),
    ("open", "open country (n = 2.7)"),
    ("middling", "some houses and trees (n = 3.1)"),
    ("cluttered", "among houses or trees (n = 3.6)"),
]
MODULATIONS = [
    ("chirp", "chirp spread spectrum"),
    ("oqpsk", "IEEE 802.15.4, 250 kbit/s"),
    ("le_1m", "Low Energy 1M"),
    ("le_2m", "Low Energy 2M"),
    ("le_coded_s8", "Low Energy coded, S=8"),
    ("le_coded_s2", "Low Energy coded, S=2"),
]


class Question(forms.Form):
    """A question that stands on the page with an example already typed."""

    typed: ClassVar[dict[str, str]] = {}
    bounds: ClassVar[dict[str, tuple[float, float]]] = {}

    def clean(self) -> dict[str, object]:
        """Refuse figures that no radio has."""
        cleaned: dict[str, object] = super().clean() or {}
        for name, (low, high) in self.bounds.items():
            value = cleaned.get(name)
            if isinstance(value, int | float) and not low <= value <= high:
                self.add_error(name, f"It must be from {low:g} to {high:g}.")
        return cleaned


class PowerQuestion(Question):
    """A power in any unit."""

    power = PowerField(label="Power")
    gain = GainField(label="Antenna")
    lead = QuantityField("dB", label="Lead loses", bare_unit="dB")
    typed: ClassVar = {"power": "25 mW", "gain": "0 dBd", "lead": "0.5 dB"}
    bounds: ClassVar = {"power": (-200, 90), "gain": (-60, 60), "lead": (0, 200)}


class BringsQuestion(Question):
    """What decibels bring."""

    exponent = forms.FloatField(label="Path-loss exponent n")
    factor = forms.FloatField(label="Range wanted, times", required=False)
    power = PowerField(label="Power now", required=False)
    spreading = forms.IntegerField(label="Spreading factor now (chirp)", required=False)
    typed: ClassVar = {"exponent": "3.1", "factor": "2", "power": "14 dBm", "spreading": "7"}
    bounds: ClassVar = {
        "exponent": (1.0, 8.0), "factor": (0.001, 1000.0), "power": (-200, 90), "spreading": (5, 12),
    }  # fmt: skip


class ReachQuestion(Question):
    """How far a whole link reaches."""

    power = PowerField(label="Power")
    gains = QuantityField("dB", label="Both antennas’ gains together, in dBi", bare_unit="dB")
    losses = QuantityField("dB", label="Leads and housings lose", bare_unit="dB")
    sensitivity = PowerField(label="Sensitivity")
    frequency = QuantityField("Hz", label="Frequency", bare_unit="MHz")
    height1 = QuantityField("m", label="Height of the fixed end", bare_unit="m")
    height2 = QuantityField("m", label="Height of the carried end", bare_unit="m")
    surrounding = forms.ChoiceField(label="Surroundings", choices=SURROUNDINGS)
    loss = forms.FloatField(label="Frames that may be lost (%)")
    places = forms.FloatField(label="At this share of the places (%)")
    typed: ClassVar = {
        "power": "14 dBm", "gains": "4 dB", "losses": "1 dB", "sensitivity": "-123 dBm",
        "frequency": "868 MHz", "height1": "4 m", "height2": "1.5 m", "surrounding": "open",
        "loss": "10", "places": "90",
    }  # fmt: skip
    bounds: ClassVar = {
        "power": (-200, 90), "gains": (-120, 120), "losses": (0, 200), "sensitivity": (-200, 60),
        "frequency": (1e6, 1e11), "height1": (0.01, 10_000), "height2": (0.01, 10_000),
        "loss": (0.1, 99), "places": (1, 99.9),
    }  # fmt: skip


class AntennaQuestion(Question):
    """What a frequency means in metal, and what a beam gives."""

    frequency = QuantityField("Hz", label="Frequency", bare_unit="MHz")
    velocity = forms.FloatField(label="Velocity factor of the wire")
    largest = QuantityField("m", label="Antenna’s largest dimension", bare_unit="m", required=False)
    width = forms.FloatField(label="Beam width (degrees)", required=False)
    off = forms.FloatField(label="Points beside by (degrees)", required=False)
    former = QuantityField("m", label="Helix: diameter to the wire’s middle", bare_unit="m", required=False)  # fmt: skip
    pitch = QuantityField("m", label="Helix: from turn to turn", bare_unit="m", required=False)
    typed: ClassVar = {
        "frequency": "868 MHz", "velocity": "0.95", "largest": "60 cm", "width": "60", "off": "20",
        "former": "6 mm", "pitch": "2 mm",
    }  # fmt: skip
    bounds: ClassVar = {
        "frequency": (1e6, 1e11), "velocity": (0.1, 1.0), "largest": (1e-4, 1000),
        "width": (0.5, 180), "off": (0, 180), "former": (1e-4, 10), "pitch": (1e-4, 10),
    }  # fmt: skip


class AirQuestion(Question):
    """A frame on the air."""

    modulation = forms.ChoiceField(label="Modulation", choices=MODULATIONS)
    spreading = forms.IntegerField(label="Spreading factor (chirp)", required=False)
    bandwidth = QuantityField("Hz", label="Bandwidth (chirp)", bare_unit="kHz", required=False)
    payload = forms.IntegerField(label="Payload in bytes")
    duty = forms.FloatField(label="Duty cycle allowed (%)")
    period = QuantityField("s", label="A message every", bare_unit="s")
    sending = QuantityField("A", label="Draws when sending", bare_unit="mA", required=False)
    sleeping = QuantityField("A", label="Draws asleep", bare_unit="µA", required=False)
    capacity = forms.FloatField(label="Battery (Ah)", required=False)
    supply = forms.FloatField(label="Supply (V)")
    bank = QuantityField("A", label="A power bank switches off under", bare_unit="mA", required=False)  # fmt: skip
    typed: ClassVar = {
        "modulation": "chirp", "spreading": "9", "bandwidth": "125 kHz", "payload": "12",
        "duty": "1", "period": "15 min", "sending": "45 mA", "sleeping": "2 µA", "capacity": "2.4",
        "supply": "3.3", "bank": "",
    }  # fmt: skip
    bounds: ClassVar = {
        "spreading": (5, 12), "bandwidth": (7000, 600_000), "payload": (0, 255), "duty": (0.001, 100),
        "period": (0.001, 1e8), "sending": (0, 100), "sleeping": (0, 10), "capacity": (1e-5, 1e4),
        "supply": (0.5, 60), "bank": (0, 10),
    }  # fmt: skip


class InductiveQuestion(Question):
    """Two loops that couple."""

    radius1 = QuantityField("m", label="Radius of the reader’s loop", bare_unit="m")
    radius2 = QuantityField("m", label="Radius of the tag’s loop", bare_unit="m")
    distance = QuantityField("m", label="Distance", bare_unit="m")
    quality1 = forms.FloatField(label="Q of the reader’s loop")
    quality2 = forms.FloatField(label="Q of the tag’s loop")
    power = PowerField(label="Power")
    needs = PowerField(label="The other end needs")
    typed: ClassVar = {
        "radius1": "15 cm", "radius2": "2.5 cm", "distance": "30 cm", "quality1": "30",
        "quality2": "30", "power": "1 W", "needs": "-10 dBm",
    }  # fmt: skip
    bounds: ClassVar = {
        "radius1": (1e-4, 10), "radius2": (1e-4, 10), "distance": (1e-3, 100), "quality1": (1, 10_000),
        "quality2": (1, 10_000), "power": (-200, 90), "needs": (-200, 90),
    }  # fmt: skip


class WayQuestion(Question):
    """What stands in the way."""

    frequency = QuantityField("Hz", label="Frequency", bare_unit="MHz")
    thickness = QuantityField("m", label="Thickness of every sheet (empty: the usual)", bare_unit="m", required=False)  # fmt: skip
    wood = QuantityField("m", label="Depth of wood", bare_unit="m")
    typed: ClassVar = {"frequency": "868 MHz", "thickness": "", "wood": "50 m"}
    bounds: ClassVar = {"frequency": (3e7, 1e11), "thickness": (1e-5, 20), "wood": (0, 10_000)}


class LimitsQuestion(Question):
    """What is allowed at a frequency."""

    frequency = QuantityField("Hz", label="Frequency", bare_unit="MHz")
    region = forms.ChoiceField(label="Region", choices=[(one, one) for one in regions()])
    typed: ClassVar = {"frequency": "868.3 MHz", "region": regions()[0]}
    bounds: ClassVar = {"frequency": (1e6, 1e11)}


class BeginForm(forms.Form):
    """A study and its first rig, from what was asked at the workbench; what is empty keeps its usual value."""

    title = forms.CharField(label="Name of the study", max_length=120)
    question = forms.CharField(label="The question it answers", max_length=200, required=False)
    needed = QuantityField("m", label="Needed distance", bare_unit="m", required=False)
    region = forms.ChoiceField(label="Region", choices=[(one, one) for one in regions()])
    frequency = QuantityField("Hz", label="Frequency", bare_unit="MHz", required=False)
    power = PowerField(label="Power", required=False)
    gain = GainField(label="Antenna, carried end", required=False)
    sensitivity = PowerField(label="Sensitivity", required=False)
    height1 = QuantityField("m", label="Height of the fixed end", bare_unit="m", required=False)
    height2 = QuantityField("m", label="Height of the carried end", bare_unit="m", required=False)
    spreading = forms.IntegerField(label="Spreading factor (chirp)", required=False, min_value=5, max_value=12)  # fmt: skip
    bandwidth = QuantityField("Hz", label="Bandwidth (chirp)", bare_unit="kHz", required=False)
    payload = forms.IntegerField(label="Payload in bytes", required=False, min_value=0, max_value=255)  # fmt: skip
