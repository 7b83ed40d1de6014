"""An amplifier that somebody else built, taken in as it stands: broken, old or unknown."""

from pydantic import Field

from plinth.builds.quantities import Model, Year


class TakenIn(Model):
    """``complaint`` what is said to be wrong with it; ``year`` in which it was made, where something on it tells."""

    complaint: str = Field(default="", max_length=400)
    year: Year | None = None

    @property
    def words(self) -> str:
        """What is known of it, as a sentence."""
        said = f"Said of it: {self.complaint.rstrip('.')}." if self.complaint else "Nobody says what is wrong with it."
        return said if self.year is None else f"{said} Made in {self.year}."
