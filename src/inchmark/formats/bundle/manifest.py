"""The manifest of a bundle: what is in it, how large, and the SHA-256 of each part."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict, Field

FORMAT, VERSION = "inch-mark-bundle", 1
MANIFEST, STUDY = "manifest.json", "study.json"


class Part(BaseModel):
    """A file of the bundle."""

    model_config = ConfigDict(extra="forbid", strict=True)
    name: str = Field(min_length=1, max_length=240)
    size: int = Field(ge=0)
    sha256: str = Field(pattern=r"^[0-9a-f]{64}$")


class Manifest(BaseModel):
    """The whole; the manifest itself is the one file it does not list."""

    model_config = ConfigDict(extra="forbid", strict=True)
    format: str
    version: int
    title: str = Field(max_length=200)
    made_at: str = Field(max_length=40)
    code_version: str = Field(max_length=40)
    model_version: str = Field(max_length=40)
    parts: list[Part] = Field(max_length=50_000)
