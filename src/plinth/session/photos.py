"""Photos of what is checked, read and noted of the current build."""

from plinth.record.photo import Photo, PhotoMark
from plinth.session.core import Core
from plinth.workshop.errors import WorkshopError
from plinth.workshop.kept_chunks import CHUNK_BYTES

# An original larger than this is kept as its scaled copy only, and that is said.
MOST_BYTES = 30_000_000
MOST_WORDS, MOST_MARKS = 500, 60


class Photos:
    """Kept in the workshop; taken off they can be put back."""

    def __init__(self, core: Core) -> None:
        self._core = core
        self._photos: tuple[int, list[Photo]] | None = None
        self._taken_off: tuple[Photo, bytes, bytes] | None = None
        self._waiting: dict[int, str] = {}
        self._begun = 0

    def photo_begun(self, name: str) -> int:
        """A photo is being taken in; the number by which it is told when that has ended."""
        self._begun += 1
        self._waiting[self._begun] = name
        return self._begun

    def photo_ended(self, number: int) -> None:
        """It was handed over to be kept, or is no picture."""
        self._waiting.pop(number, None)

    @property
    def photos_waiting(self) -> tuple[str, ...]:
        """Names of the photos that are not kept yet."""
        return tuple(self._waiting.values())

    def of(self, subject: str | None = None) -> list[Photo]:
        """The photos of a subject, or all of the current build."""
        if self._photos is None or self._photos[0] != self._core.current:
            try:
                self._photos = (self._core.current, self._core.workshop.photos(self._core.current))
            except WorkshopError as error:
                self._core.tell.trouble(str(error))
                return []
        return [photo for photo in self._photos[1] if subject is None or photo.subject == subject]

    def put_aside(self, content: bytes) -> None:
        """Write an original into the file, on whichever thread, before it is said whose photo it is.

        Raises WorkshopError where it could not be. What is too large to be kept is passed over.
        """
        if CHUNK_BYTES < len(content) <= MOST_BYTES:
            self._core.workshop.put_aside(content)

    def add_photo(
        self, subject: str, name: str, content: bytes, scaled: bytes, build_id: int | None = None
    ) -> Photo | None:
        """Keep a photo with its scaled copy, of ``build_id`` (None: the current build).

        None (and ``trouble``) where it could not be kept.
        """
        original = content if len(content) <= MOST_BYTES else scaled
        made: list[Photo] = []
        build_id = self._core.current if build_id is None else build_id
        kept = self._core.attempt(
            lambda: made.append(
                self._core.workshop.add_photo(build_id, subject, self._core.now(), name, original, scaled)
            )
        )
        if not kept:
            return None
        self._changed()
        return made[0]

    def change_photo(self, photo: Photo, words: str, marks: tuple[PhotoMark, ...]) -> bool:
        """Keep other words and marks with a photo."""
        words, marks = words.strip()[:MOST_WORDS], marks[:MOST_MARKS]
        if not self._core.attempt(lambda: self._core.workshop.change_photo(photo.number, words, marks)):
            return False
        self._changed()
        return True

    def remove_photo(self, photo: Photo) -> bool:
        """Take a photo off; it can be put back until another one is."""
        # As it is kept now: its words and marks may be newer than what was handed over.
        photo = next((kept for kept in self.of() if kept.number == photo.number), photo)
        content, scaled = self.picture(photo, whole=True), self.picture(photo, whole=False)
        if (
            content is None
            or scaled is None
            or not self._core.attempt(lambda: self._core.workshop.remove_photo(photo.number))
        ):
            return False
        self._taken_off = (photo, content, scaled)
        self._changed()
        return True

    @property
    def photo_taken_off(self) -> Photo | None:
        """The photo that can be put back."""
        return None if self._taken_off is None else self._taken_off[0]

    def put_back_photo(self) -> bool:
        """Put back the photo that was taken off last."""
        if self._taken_off is None:
            return False
        photo, content, scaled = self._taken_off
        if not self._core.attempt(
            lambda: self._core.workshop.add_photo(
                photo.build_id,
                photo.subject,
                photo.at,
                name=photo.name,
                content=content,
                scaled=scaled,
                words=photo.words,
                marks=photo.marks,
            )
        ):
            return False
        self._taken_off = None
        self._changed()
        return True

    def picture(self, photo: Photo, *, whole: bool) -> bytes | None:
        """The scaled copy, or the original; None (and ``trouble``) where it is not as it was written."""
        try:
            content = self._core.workshop.photo_picture(photo.number, whole=whole)
        except WorkshopError as error:
            self._core.tell.trouble(str(error))
            return None
        if content is None:
            self._core.tell.trouble(f"{photo.name} is not as it was written, or gone. The other photos are whole.")
        return content

    def _changed(self) -> None:
        self._photos = None
        self._core.tell.photos_changed()
