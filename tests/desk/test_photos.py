"""Photos on checks, steps, readings and notes: taken in, scaled, marked, kept, taken off and put back."""

import sqlite3
from pathlib import Path

import pytest
from PySide6.QtCore import QBuffer, QByteArray, QMimeData, Qt, QUrl
from PySide6.QtGui import QColor, QImage, QImageWriter
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from plinth.desk.photos.scaling import MOST_PIXELS, SCALED_SIDE, PictureError, image_content, scaled_copy
from plinth.desk.photos.strip import PhotoStrip
from plinth.desk.photos.viewer import PhotoViewer
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.record.photo import Mark, read_marks
from plinth.session import photos as limits
from plinth.workshop.salvage import salvage
from plinth.workshop.store import open_workshop


def picture(width: int, height: int, form: str = "JPG") -> bytes:
    made = QImage(width, height, QImage.Format.Format_RGB32)
    made.fill(QColor("peru"))
    for x in range(0, width, max(width // 8, 1)):
        made.setPixelColor(x, height // 2, QColor("black"))
    held = QBuffer()
    held.open(QBuffer.OpenModeFlag.WriteOnly)
    QImageWriter(held, QByteArray(form.lower().encode())).write(made)
    return bytes(held.data().data())


@pytest.fixture
def strip(window: PlinthWindow) -> PhotoStrip:
    window.show_stage(1)
    return window.inspect.photos


def test_a_picture_of_40_megapixels_is_scaled_aside_and_kept_whole(
    strip: PhotoStrip, session: BenchSession, tmp_path: Path
) -> None:
    path = tmp_path / "inlet from behind.jpg"
    content = picture(7300, 5480)
    path.write_bytes(content)
    strip.add_file(path)
    (photo,) = session.photos()
    assert photo.subject == session.inspection()[0].check.subject or photo.subject.startswith("inspect/")
    assert photo.name == path.name
    assert session.picture(photo, whole=True) == content
    scaled = QImage()
    assert scaled.loadFromData(QByteArray(session.picture(photo, whole=False) or b""))
    assert max(scaled.width(), scaled.height()) == SCALED_SIDE
    assert scaled.width() / scaled.height() == pytest.approx(7300 / 5480, rel=2e-3)
    assert strip.said.text() == ""


def test_it_is_scaled_off_the_window_s_thread(qtbot: QtBot, demo_file: Path, tmp_path: Path) -> None:
    copy = tmp_path / "threaded.plinth"
    copy.write_bytes(demo_file.read_bytes())
    session = BenchSession(open_workshop(copy))
    strip = PhotoStrip(session)
    qtbot.addWidget(strip)
    strip.show_subject("inspect/vents")
    (tmp_path / "a.jpg").write_bytes(picture(3000, 2000))
    with qtbot.waitSignal(session.photos_changed, timeout=60_000):
        strip.add_file(tmp_path / "a.jpg")
        # Nothing is kept before the event loop runs: the work was handed over.
        assert strip.said.text() == "Taking in a.jpg …"
        assert session.workshop.photos(session.stored.id) == []
    assert [one.name for one in session.photos("inspect/vents")] == ["a.jpg"]
    session.close()


@pytest.mark.parametrize(
    ("name", "content", "words"),
    [
        ("notes.txt", b"no picture at all", "found no picture, expected JPEG"),
        ("torn.jpg", picture(640, 480)[:300], "torn.jpg"),
        ("empty.png", b"", "found no picture"),
    ],
)
def test_what_is_no_picture_is_said_and_nothing_is_kept(
    strip: PhotoStrip, session: BenchSession, tmp_path: Path, name: str, content: bytes, words: str
) -> None:
    (tmp_path / name).write_bytes(content)
    strip.add_file(tmp_path / name)
    if name != "torn.jpg":
        assert words in strip.said.text()
        assert session.photos() == []
    strip.add_file(tmp_path / "gone.jpg")
    assert "found no file" in strip.said.text()
    strip.add_file(tmp_path)
    assert "found no file" in strip.said.text()


def test_a_picture_beyond_all_measure_is_refused() -> None:
    wide = 10_000
    assert wide * wide < MOST_PIXELS
    header = bytearray(picture(16, 16, "PNG"))
    # Width and height of a PNG stand in its first chunk.
    header[16:24] = (20_000).to_bytes(4, "big") + (20_000).to_bytes(4, "big")
    with pytest.raises(PictureError):
        scaled_copy(bytes(header), "huge.png")


def test_pasted_and_dropped_pictures_are_taken_in(strip: PhotoStrip, session: BenchSession, tmp_path: Path) -> None:
    pasted = QMimeData()
    pasted.setImageData(QImage.fromData(QByteArray(picture(50, 40))))
    assert strip.take(pasted)
    assert [one.name for one in session.photos()] == ["pasted picture"]
    files = QMimeData()
    paths = [tmp_path / "one.png", tmp_path / "two.webp"]
    for path in paths:
        path.write_bytes(picture(60, 30, path.suffix[1:].upper()))
    files.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    assert strip.take(files)
    assert [one.name for one in session.photos()] == ["pasted picture", "one.png", "two.webp"]
    words = QMimeData()
    words.setText("only words")
    assert not strip.take(words)
    assert image_content(QImage.fromData(QByteArray(picture(9, 9)))).startswith(b"\x89PNG")


def test_marks_and_words_are_kept_as_they_are_typed(
    strip: PhotoStrip, session: BenchSession, window: PlinthWindow, tmp_path: Path
) -> None:
    strip.add("switch.jpg", lambda: picture(800, 600))
    (photo,) = session.photos()
    viewer = PhotoViewer(window, session, photo)
    viewer.show()
    viewer.words.setText("The switch from behind")
    viewer.words.editingFinished.emit()
    place = viewer.picture.place()
    at = place.topLeft() + (place.bottomRight() - place.topLeft()) * 0.25
    QTest.mouseClick(viewer.picture, Qt.MouseButton.LeftButton, pos=at.toPoint())
    viewer.mark_words.setText("")
    viewer.keep_mark()
    assert session.photos()[0].marks == ()
    viewer.mark_words.setText("sleeve slid back")
    QTest.keyClick(viewer.mark_words, Qt.Key.Key_Return)
    # By keys alone: arrows and Space.
    viewer.picture.setFocus()
    for _ in range(5):
        QTest.keyClick(viewer.picture, Qt.Key.Key_Right)
    QTest.keyClick(viewer.picture, Qt.Key.Key_Space)
    viewer.mark_words.setText("bare tag")
    QTest.keyClick(viewer.mark_words, Qt.Key.Key_Return)
    (kept,) = session.photos()
    assert kept.words == "The switch from behind"
    assert [one.words for one in kept.marks] == ["sleeve slid back", "bare tag"]
    assert (kept.marks[0].x, kept.marks[0].y) == pytest.approx((0.25, 0.25), abs=0.01)
    assert (kept.marks[1].x, kept.marks[1].y) == pytest.approx((0.6, 0.5))
    viewer.list.setCurrentRow(0)
    viewer.drop_mark()
    assert [one.words for one in session.photos()[0].marks] == ["bare tag"]
    viewer.save(tmp_path / "out.jpg")
    assert (tmp_path / "out.jpg").read_bytes() == picture(800, 600)
    viewer.save(tmp_path / "no" / "such" / "out.jpg")
    assert "could not be written" in viewer.said.text()
    viewer.take_off()
    assert session.photos() == []
    assert strip.back_button.isVisibleTo(strip)
    strip.back_button.click()
    (back,) = session.photos()
    assert back.words == "The switch from behind"
    assert [one.words for one in back.marks] == ["bare tag"]


def test_photos_belong_to_steps_readings_and_notes_as_well(window: PlinthWindow, session: BenchSession) -> None:
    window.show_stage(2)
    window.power_up.photos.add("bias.jpg", lambda: picture(80, 60))
    step = window.power_up.question.step
    assert step is not None
    assert [one.name for one in session.photos(step.subject)] == ["bias.jpg"]
    window.show_stage(3)
    for name in ("Rails", "Clipping power", "Response"):
        window.measure.show_named(name)
        window.measure.photos.add(f"screen {name}.jpg", lambda: picture(80, 60))
        assert [one.name for one in session.photos(window.measure.test.subject)] == [f"screen {name}.jpg"]
    window.show_stage(4)
    diary = window.diary
    rows = diary.lines.rowCount()
    diary.table.selectRow(rows - 1)
    assert diary.photos.isVisible()
    diary.photos.add("the box.jpg", lambda: picture(80, 60))
    note = diary.lines.line(rows - 1)
    assert note is not None
    assert note.kind == "note"
    assert [one.name for one in session.photos(f"line/{note.at.isoformat()}")] == ["the box.jpg"]
    # Another build has none of them.
    session.switch(2)
    assert session.photos() == []


def test_a_huge_original_is_kept_as_its_copy_only(
    strip: PhotoStrip, session: BenchSession, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(limits, "MOST_BYTES", 2000)
    strip.add("large.png", lambda: picture(900, 900, "BMP"))
    (photo,) = session.photos()
    assert session.picture(photo, whole=True) == session.picture(photo, whole=False)
    assert "only its scaled copy is kept" in strip.said.text()


def test_a_damaged_photo_is_named_and_the_others_are_saved(session: BenchSession, tmp_path: Path) -> None:
    build, whole = session.stored.id, picture(300, 200)
    for name in ("good.jpg", "bad.jpg"):
        session.add_photo("inspect/vents", name, whole, scaled_copy(whole, name))
    good = session.photos()[0]
    assert session.change_photo(good, "a round top", (Mark(0.2, 0.7, "here"),))
    copy = tmp_path / "torn.plinth"
    copy.write_bytes(session.workshop.path.read_bytes())
    with sqlite3.connect(copy) as connection:
        connection.execute("UPDATE photos SET content = X'00' WHERE name = 'bad.jpg'")
    connection.close()
    workshop = open_workshop(copy)
    first, second = workshop.photos(build)
    assert workshop.photo_picture(first.number, whole=True) == whole
    assert workshop.photo_picture(second.number, whole=True) is None
    # The small picture of a photo whose original is damaged can still be seen.
    assert workshop.photo_picture(second.number, whole=False) == scaled_copy(whole, "bad.jpg")
    assert any("photo" in one for one in workshop.notices)
    workshop.close()
    saved = salvage(copy, tmp_path / "saved.plinth")
    assert any("bad.jpg" in one for one in saved.lost)
    again = open_workshop(tmp_path / "saved.plinth")
    numbers = [one.id for one in again.builds()]
    (kept,) = [photo for number in numbers for photo in again.photos(number)]
    assert (kept.name, kept.words, kept.marks) == ("good.jpg", "a round top", (Mark(0.2, 0.7, "here"),))
    assert again.photo_picture(kept.number, whole=False) is not None
    again.close()


def test_a_mark_lies_on_its_picture() -> None:
    with pytest.raises(ValueError, match="between 0 and 1"):
        Mark(1.2, 0.5, "beside it")
    assert read_marks("[]") == ()
