"""Forms of the plan."""

from django import forms

from inchmark.pages.fields import QuantityField
from inchmark.plan.models import Site, Stop


class SiteForm(forms.ModelForm):
    """Where the fixed end stands."""

    class Meta:
        model = Site
        fields = ["fixed_name", "lat", "lon", "ground_m"]
        labels = {
            "lat": "Latitude (degrees)",
            "lon": "Longitude (degrees)",
            "ground_m": "Ground height (m)",
        }
        help_texts = {"lat": "WGS 84. Leave empty if distances are typed."}


class StopForm(forms.ModelForm):
    """One stop, by distance or by coordinates."""

    distance_m = QuantityField(
        "m",
        label="Distance",
        required=False,
        help_text="Like “480 m”; empty to measure between coordinates.",
    )
    plus_minus_m = QuantityField("m", label="±", required=False)

    class Meta:
        model = Stop
        fields = ["label", "name", "distance_m", "plus_minus_m", "method", "lat", "lon", "height_m"]
        labels = {
            "label": "Stop",
            "lat": "Latitude",
            "lon": "Longitude",
            "height_m": "Ground height (m)",
        }

    def _get_validation_exclusions(self) -> set[str]:
        # the service fills the distance in; the database's rule is checked there
        return super()._get_validation_exclusions() | {"distance_m"}


class StopsFileForm(forms.Form):
    """A stops file."""

    file = forms.FileField(
        label="Stops file",
        help_text="CSV: stop, distance_m, and optionally lat, lon, height_m, name, method, "
        "plus_minus_m.",
    )
