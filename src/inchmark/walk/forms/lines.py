"""Lines of a live source as programs and pages send them."""

from __future__ import annotations

from typing import Annotated

from pydantic import AwareDatetime, BaseModel, Field, model_validator

Moment = Annotated[float, Field(ge=0, lt=2**33)]


class Lines(BaseModel):
    """Raw lines of a source, numbered from 1 since its start.

    `at` is when the first of them came: the day of lines that tell the time of day only. `came` is
    when each came [s since 1970]: the time of lines that tell none.
    """

    source: str = Field(min_length=1, max_length=60, pattern=r"^[^\x00-\x1f]+$")
    start: str = Field(min_length=1, max_length=40, pattern=r"^[\w.:+-]+$")
    first: int = Field(ge=1, le=10**12)
    lines: list[str] = Field(max_length=2000)
    constants: dict[str, str] = Field(default_factory=dict)
    at: AwareDatetime | None = None
    came: list[Moment] | None = Field(default=None, max_length=2000)

    @model_validator(mode="after")
    def one_time_a_line(self) -> Lines:
        """Refuse times that are not as many as the lines."""
        if self.came is not None and len(self.came) != len(self.lines):
            raise ValueError(f"{len(self.came)} times came for {len(self.lines)} lines")
        return self

    def broken(self) -> bool:
        """Tell whether a line holds a line end."""
        return any("\n" in line or "\r" in line for line in self.lines)


LINE_END = "A line holds a line end. Send each line as one text."
