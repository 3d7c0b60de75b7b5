"""Forms of the plan."""

from collections.abc import Callable
from typing import Any

from django import forms

from inchmark.formats.ground_points import written
from inchmark.pages.fields import QuantityField, SmallFileField, model_choice
from inchmark.pages.rows import Column, RowsField
from inchmark.plan.figures.day import condition_choices, way_choices
from inchmark.plan.models import Design, Site, SitePoint, SiteWall, Stop
from inchmark.studies.models import Study

MOST_WAYS = 6


class SiteForm(forms.ModelForm):
    """Where the fixed end stands."""

    class Meta:
        model = Site
        fields = [
            "fixed_name",
            "lat",
            "lon",
            "ground_m",
            "model",
            "openness",
            "surrounding",
            "ground",
            "polarisation",
            "building",
            "shadowing_db",
            "tiles_url",
            "tiles_credit",
        ]
        labels = {
            "lat": "Latitude (degrees)",
            "lon": "Longitude (degrees)",
            "ground_m": "Ground height (m)",
            "openness": "Surroundings, for the path exponent",
            "surrounding": "Surrounding from the shelf",
            "ground": "Ground, for two rays",
            "building": "Building, for paths inside",
            "shadowing_db": "Spread between places (dB)",
        }
        help_texts = {
            "lat": "WGS 84. Leave empty if distances are typed.",
            "shadowing_db": "4 to 8 dB is common practice outdoors.",
            "surrounding": "As a walk found it; its own spread between places is taken.",
            "model": "Terrain needs a terrain file or a typed profile; else two rays stand in.",
        }

    def __init__(self, *args: Any, study: Study, **kwargs: Any) -> None:
        """Offer the surroundings of the study's own shelf."""
        super().__init__(*args, **kwargs)
        field = model_choice(self, "surrounding")
        field.queryset = study.surrounding_parts.filter(archived=False)
        field.empty_label = "none"


class CoveredForm(forms.ModelForm):
    """What covers a place; empty figures are none."""

    cover_m = QuantityField("m", label="Depth of the wood", required=False)
    floors = forms.IntegerField(
        label="Floors between", required=False, min_value=0, help_text="For paths inside."
    )

    def clean_cover_m(self) -> float:
        """Take an empty depth for none."""
        return self.cleaned_data["cover_m"] or 0.0

    def clean_floors(self) -> int:
        """Take an empty count for none."""
        return self.cleaned_data["floors"] or 0


class StopForm(CoveredForm):
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
        fields = [
            "label",
            "name",
            "distance_m",
            "plus_minus_m",
            "method",
            "lat",
            "lon",
            "height_m",
            "cover",
            "cover_m",
            "floors",
        ]
        labels = {
            "cover": "What covers it",
            "label": "Stop",
            "lat": "Latitude",
            "lon": "Longitude",
            "height_m": "Ground height (m)",
        }

    def _get_validation_exclusions(self) -> set[str]:
        # the service fills the distance in; the database's rule is checked there
        left: set[str] = super()._get_validation_exclusions()  # type: ignore[misc]
        return left | {"distance_m"}


class PointForm(CoveredForm):
    """A needed place, or a further receiver."""

    antenna_m = QuantityField(
        "m", label="Height of the antenna", required=False, help_text="Empty: as the rig has it."
    )

    class Meta:
        model = SitePoint
        fields = ["kind", "label", "name", "lat", "lon", "antenna_m", "cover", "cover_m", "floors"]
        labels = {
            "label": "Label",
            "lat": "Latitude",
            "lon": "Longitude",
            "cover": "What covers it",
        }
        help_texts = {"label": "Empty: the next N or R with a number."}

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        """Let the label be left open."""
        super().__init__(*args, **kwargs)
        self.fields["label"].required = False

    def _get_validation_exclusions(self) -> set[str]:
        # the service gives a label; the database's rule is checked there
        left: set[str] = super()._get_validation_exclusions()  # type: ignore[misc]
        return left | {"label"}


class WallForm(forms.ModelForm):
    """A wall: what it is made of, and where it runs."""

    thickness_m = QuantityField(
        "m", label="Thickness", required=False, help_text="Like “12 cm”. Empty: as usual for it."
    )
    line = forms.CharField(
        label="Its points, one a line",
        max_length=20_000,
        widget=forms.Textarea(attrs={"rows": 5, "spellcheck": "false"}),
        help_text="Latitude, longitude; or metres east and north of the fixed end, like “4 m, -2.5 m”. Or draw it on the map.",
    )

    class Meta:
        model = SiteWall
        fields = ["name", "kind", "thickness_m", "loss_db"]
        labels = {"name": "What it is", "kind": "Made of", "loss_db": "One crossing costs (dB)"}
        help_texts = {
            "name": "Like “north wall of the hall”; may be empty.",
            "loss_db": "As you measured it; goes before what it is made of. Empty: worked out.",
        }

    def __init__(self, *args: Any, read: Callable[[str], list[list[float]]], **kwargs: Any) -> None:
        """Take how points are read, and show those of a kept wall as they could have been typed."""
        super().__init__(*args, **kwargs)
        self.read = read
        if self.instance.pk:
            self.initial.setdefault("line", written(self.instance.points))

    def clean_line(self) -> str:
        """Read the points."""
        text: str = self.cleaned_data["line"]
        try:
            self.instance.points = self.read(text)
        except ValueError as wrong:
            raise forms.ValidationError(str(wrong)) from None
        return text


class StopsFileForm(forms.Form):
    """A file of stops, needed places or receivers."""

    KINDS = [("stop", "stops"), ("node", "places that need a node"), ("receiver", "receivers")]

    kind = forms.ChoiceField(
        label="Read its places as", choices=KINDS, initial="stop", required=False
    )
    file = SmallFileField(
        8,
        label="Stops file",
        help_text="CSV (stop, distance_m …), GPX or GeoJSON: waypoints are stops, a track becomes stops along it.",
    )
    every_m = QuantityField(
        "m", required=False, label="A stop every", help_text="For a track, like “100 m”."
    )
    doubling_from_m = QuantityField(
        "m", required=False, label="or at each doubling from", help_text="Like “25 m”."
    )


class TerrainForm(forms.Form):
    """A terrain file."""

    prefix = "terrain"  # the stops file stands on the same page

    file = SmallFileField(40, label="Terrain", help_text="GeoTIFF, HGT or ESRI ASCII grid.")


class FeaturesForm(forms.Form):
    """Features of the map."""

    prefix = "features"

    file = SmallFileField(
        8,
        label="Features",
        help_text="GeoJSON: lines, areas and marks, drawn with their names. An area with a property “cover” of reeds, trees or houses stands 2, 12 or 8 m on the terrain. A line with a property “wall” (light, heavy, concrete, brick, plasterboard, wood, glass, chipboard, metal) or “loss_db” is a wall.",
    )


class ProfileForm(forms.Form):
    """A typed profile of one path."""

    rows = RowsField(
        [Column("distance", "m"), Column("height", "m"), Column("cover")],
        label="Profile of this path",
        help_text="One line each from the fixed end on: distance, ground height, cover (open, reeds, trees, houses), like “120 m, 3 m, reeds”. Empty: the terrain is used.",
    )


class DesignForm(forms.ModelForm):
    """The question and how the day is worked."""

    GROUPS = (
        ("Question", ("kind", "rig", "other", "wanted_db")),
        ("Frames", ("frames", "loss_within", "level_within_db")),
        ("Order", ("arrangement", "passes", "shuffled")),
        ("Carried as usual, and also", ("ways", "own_ways")),
        (
            "The day",
            (
                "walked_on",
                "starts_at",
                "utc_offset_h",
                "interval_s",
                "set_up_s",
                "change_s",
                "speed_m_s",
            ),
        ),
        ("What applies", ("conditions", "exception")),
    )
    interval_s = QuantityField(
        "s",
        required=False,
        label="A frame every",
        help_text="Never shorter than duty cycle and sub-band allow; empty: as short as that.",
    )
    loss_within = forms.FloatField(
        label="Loss wanted to ±", required=False, help_text="0.1 tells 10 % from none and 20 %."
    )
    level_within_db = forms.FloatField(label="Level wanted to ± (dB)", required=False)
    set_up_s = QuantityField("s", label="Set-up at a stop", help_text="Like “2 min”.")
    change_s = QuantityField("s", label="Change of rig")
    ways = forms.MultipleChoiceField(
        choices=way_choices,
        required=False,
        label="Each a visit of its own, at every stop",
        widget=forms.CheckboxSelectMultiple,
    )
    own_ways = forms.CharField(
        required=False,
        max_length=200,
        label="Other ways",
        help_text="With commas between, like “on the belt, lid closed”.",
    )
    conditions = forms.MultipleChoiceField(
        choices=condition_choices,
        required=False,
        label="What applies on the day",
        widget=forms.CheckboxSelectMultiple,
    )

    class Meta:
        model = Design
        fields = [
            "kind",
            "rig",
            "other",
            "wanted_db",
            "frames",
            "loss_within",
            "level_within_db",
            "arrangement",
            "passes",
            "shuffled",
            "ways",
            "walked_on",
            "starts_at",
            "utc_offset_h",
            "interval_s",
            "set_up_s",
            "change_s",
            "speed_m_s",
            "conditions",
            "exception",
        ]
        labels = {
            "wanted_db": "Difference worth having (dB)",
            "passes": "Passes (out, back …)",
            "speed_m_s": "Pace between stops (m/s)",
            "level_within_db": "Level wanted to ± (dB)",
        }
        help_texts = {"speed_m_s": "1.2 on foot, some 8 by car on lanes; the driver does not log."}
        widgets = {
            "walked_on": forms.DateInput(format="%Y-%m-%d", attrs={"type": "date"}),
            "starts_at": forms.TimeInput(format="%H:%M", attrs={"type": "time"}),
        }

    def __init__(self, *args: Any, study: Study, **kwargs: Any) -> None:
        """Offer the study's own rigs."""
        super().__init__(*args, **kwargs)
        for name in ("rig", "other"):
            model_choice(self, name).queryset = study.rigs.all()
            model_choice(self, name).empty_label = "none"
        offered = {way for way, _ in way_choices()}
        own = [way for way in self.instance.ways if way not in offered]
        self.initial.setdefault("own_ways", ", ".join(own))

    def clean(self) -> dict[str, Any]:
        """Join the ways that are offered and one's own."""
        cleaned = super().clean() or self.cleaned_data
        own = [" ".join(way.split())[:60] for way in cleaned.get("own_ways", "").split(",")]
        ways = [*dict.fromkeys([*cleaned.get("ways", []), *filter(None, own)])]
        if len(ways) > MOST_WAYS:
            self.add_error("own_ways", f"{len(ways)} ways are chosen; {MOST_WAYS} are the most.")
        cleaned["ways"] = ways
        return cleaned

    def clean_loss_within(self) -> float:
        """Take an empty wish for the usual one."""
        return float(
            self.cleaned_data["loss_within"] or Design._meta.get_field("loss_within").default
        )

    def clean_level_within_db(self) -> float:
        """Take an empty wish for the usual one."""
        usual = Design._meta.get_field("level_within_db").default
        return float(self.cleaned_data["level_within_db"] or usual)

    def grouped(self) -> list[tuple[str, list[forms.BoundField]]]:
        """Return the fields in groups."""
        return [(title, [self[name] for name in names]) for title, names in self.GROUPS]


class MoveForm(forms.Form):
    """Where a stop was dragged to."""

    lat = forms.FloatField(min_value=-90, max_value=90)
    lon = forms.FloatField(min_value=-180, max_value=180)
