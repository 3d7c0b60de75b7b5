"""The plan: site, stops and terrain, and the design of the field day."""

from inchmark.plan.models.design import Acknowledgement, Design, SiteMap
from inchmark.plan.models.site import Site, Stop, Terrain

__all__ = ["Acknowledgement", "Design", "Site", "SiteMap", "Stop", "Terrain"]
