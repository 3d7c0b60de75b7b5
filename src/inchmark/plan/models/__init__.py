"""The plan: site, stops and terrain, and the design of the field day."""

from inchmark.plan.models.design import Acknowledgement, Design, SiteMap
from inchmark.plan.models.site import Site, SiteFeatures, Terrain
from inchmark.plan.models.stops import SitePoint, Stop
from inchmark.plan.models.walls import SiteWall

__all__ = [
    "Acknowledgement",
    "Design",
    "Site",
    "SiteFeatures",
    "SiteMap",
    "SitePoint",
    "SiteWall",
    "Stop",
    "Terrain",
]
