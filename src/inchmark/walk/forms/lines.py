"""Lines of a live source as programs and pages send them."""

from __future__ import annotations

from pydantic import AwareDatetime, BaseModel, Field


class Lines(BaseModel):
    """Raw lines of a source, numbered from 1 since its start.

    `at` is when the first of them came: the day of lines that tell the time of day only.
    """

    source: str = Field(min_length=1, max_length=60, pattern=r"^[^\x00-\x1f]+$")
    start: str = Field(min_length=1, max_length=40, pattern=r"^[\w.:+-]+$")
    first: int = Field(ge=1, le=10**12)
    lines: list[str] = Field(max_length=2000)
    constants: dict[str, str] = Field(default_factory=dict)
    at: AwareDatetime | None = None

    def broken(self) -> bool:
        """Tell whether a line holds a line end."""
        return any("\n" in line or "\r" in line for line in self.lines)


LINE_END = "A line holds a line end. Send each line as one text."
