"""Form fields for typed quantities: what is typed is read with its unit and shown back."""

from __future__ import annotations

import re
from typing import Any, cast

from django import forms

from inchmark.formats.quantities import read_bit_rate, read_gain_dbi, read_power_dbm, read_quantity


def model_choice(form: forms.BaseForm, name: str) -> forms.ModelChoiceField[Any]:
    """Return the field of a form that offers rows."""
    return cast("forms.ModelChoiceField[Any]", form.fields[name])


class QuantityField(forms.CharField):
    """A quantity in one base unit ("1.3 km" gives 1300.0); a bare number is in `bare_unit`."""

    def __init__(self, unit: str, *, bare_unit: str | None = None, **kwargs: Any) -> None:
        self.unit, self.bare_unit = unit, bare_unit
        kwargs.setdefault("max_length", 40)
        super().__init__(**kwargs)
        self.widget.attrs.setdefault("inputmode", "text")
        self.widget.attrs.setdefault("autocomplete", "off")

    def to_python(self, value: Any) -> float | None:  # type: ignore[override]
        """Return the number in the base unit."""
        text = super().to_python(value)
        if not text:
            return None
        try:
            return self.read(text)
        except ValueError as wrong:
            raise forms.ValidationError(str(wrong)) from None

    def read(self, text: str) -> float:
        """Read the typed text."""
        return read_quantity(text, self.unit, bare_unit=self.bare_unit)

    def run_validators(self, value: Any) -> None:
        """Leave length checks of text aside; the number is bounded by the database's rule."""

    def prepare_value(self, value: Any) -> Any:
        """Show a stored number with its unit."""
        if isinstance(value, float | int):
            return self.show(float(value))
        return value

    def show(self, value: float) -> str:
        """Return the number with a unit a person would use."""
        if self.unit == "Hz":
            return f"{value / 1e6:.10g} MHz" if value >= 1e6 else f"{value / 1e3:.10g} kHz"
        if self.unit == "A" and value:
            scale, name = next(pair for pair in _AMPERES if value >= pair[0] or pair[0] == 1e-9)
            return f"{value / scale:.10g} {name}"
        if self.unit == "s" and value >= 60 and value % 60 == 0:
            return f"{value / 60:.10g} min"
        return f"{value:.10g} {self.unit}"


class QuantitiesField(QuantityField):
    """Several quantities in one base unit, with semicolons or commas and spaces between."""

    def __init__(self, unit: str, *, most: int, **kwargs: Any) -> None:
        self.most = most
        kwargs.setdefault("max_length", 40 * most)
        super().__init__(unit, **kwargs)

    def to_python(self, value: Any) -> list[float]:  # type: ignore[override]
        """Return the numbers in the base unit, in the order typed."""
        text = forms.CharField.to_python(self, value)
        pieces = [one for one in re.split(r"[;\n]|,\s", text or "") if one.strip()]
        if len(pieces) > self.most:
            raise forms.ValidationError(f"{len(pieces)} are typed; {self.most} are the most.")
        try:
            return [self.read(one.strip()) for one in pieces]
        except ValueError as wrong:
            raise forms.ValidationError(str(wrong)) from None


_AMPERES = ((1.0, "A"), (1e-3, "mA"), (1e-6, "µA"), (1e-9, "nA"))


class PowerField(QuantityField):
    """A power in dBm, typed as dBm or in watts."""

    def __init__(self, **kwargs: Any) -> None:
        super().__init__("dBm", **kwargs)

    def read(self, text: str) -> float:
        """Read dBm or watts."""
        return read_power_dbm(text)

    def show(self, value: float) -> str:
        """Return dBm."""
        return f"{value:.4g} dBm"


class GainField(QuantityField):
    """A gain in dBi, typed as dBi or dBd; a bare number is refused, since the two differ."""

    def __init__(self, **kwargs: Any) -> None:
        super().__init__("dBi", **kwargs)

    def read(self, text: str) -> float:
        """Read dBi or dBd."""
        return read_gain_dbi(text)

    def show(self, value: float) -> str:
        """Return dBi."""
        return f"{value:.4g} dBi"


class BitRateField(QuantityField):
    """A bit rate in bit/s; a bare number is kbit/s."""

    def __init__(self, **kwargs: Any) -> None:
        super().__init__("bit/s", **kwargs)

    def read(self, text: str) -> float:
        """Read bit/s, kbit/s or Mbit/s."""
        return read_bit_rate(text)

    def show(self, value: float) -> str:
        """Return kbit/s."""
        return f"{value / 1e3:.10g} kbit/s"


class SmallFileField(forms.FileField):
    """A file that is read whole; one over `most_mb` is refused before a byte of it is read."""

    def __init__(self, most_mb: int, **kwargs: Any) -> None:
        self.most_mb = most_mb
        super().__init__(**kwargs)

    def to_python(self, data: Any) -> Any:
        """Return the file, or say how large it may be."""
        file = super().to_python(data)
        if file is not None and file.size > self.most_mb * 2**20:
            raise forms.ValidationError(
                f"{file.name} is over {self.most_mb} MB. Cut it down to what is needed here."
            )
        return file
