"""Photos on checks, steps, readings and notes: taken in, scaled, marked, kept, taken off and put back."""

import sqlite3
import threading
from pathlib import Path

import pytest
from PySide6.QtCore import QBuffer, QByteArray, QMimeData, Qt, QUrl
from PySide6.QtGui import QColor, QImage, QImageWriter
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from plinth.desk.photos import scaling
from plinth.desk.photos.picture_formats import cut_short, picture_format
from plinth.desk.photos.scaling import MOST_PIXELS, SCALED_SIDE, PictureError, image_content, scaled_copy
from plinth.desk.photos.strip import PhotoStrip
from plinth.desk.photos.viewer import PhotoViewer
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.record.photo import PhotoMark, read_marks
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
    window.show_stage("inspect")
    return window.inspect.photos


def test_a_picture_of_40_megapixels_is_scaled_aside_and_kept_whole(
    strip: PhotoStrip, session: BenchSession, tmp_path: Path
) -> None:
    path = tmp_path / "inlet from behind.jpg"
    content = picture(7300, 5480)
    path.write_bytes(content)
    strip.add_file(path)
    (photo,) = session.photos.of()
    assert photo.subject == session.bring_up.inspection()[0].check.subject or photo.subject.startswith("inspect/")
    assert photo.name == path.name
    assert session.photos.picture(photo, whole=True) == content
    scaled = QImage()
    assert scaled.loadFromData(QByteArray(session.photos.picture(photo, whole=False) or b""))
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
    assert [one.name for one in session.photos.of("inspect/vents")] == ["a.jpg"]
    session.close()


def threaded(demo_file: Path, tmp_path: Path) -> BenchSession:
    copy = tmp_path / "threaded.plinth"
    copy.write_bytes(demo_file.read_bytes())
    return BenchSession(open_workshop(copy))


def test_a_large_original_is_written_off_the_window_s_thread(
    qtbot: QtBot, demo_file: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    session = threaded(demo_file, tmp_path)
    writers: list[bool] = []
    write = session.workshop.put_aside

    def watched(content: bytes) -> str:
        writers.append(threading.current_thread() is threading.main_thread())
        return write(content)

    monkeypatch.setattr(session.workshop, "put_aside", watched)
    strip = PhotoStrip(session)
    qtbot.addWidget(strip)
    strip.show_subject("inspect/vents")
    content = picture(1400, 900, "BMP")
    strip.add("large.bmp", lambda: content)
    qtbot.waitUntil(lambda: not session.photos.photos_waiting, timeout=60_000)
    (kept,) = session.photos.of("inspect/vents")
    assert writers == [False], "once, and not by the window"
    assert kept.size == len(content)
    assert session.photos.picture(kept, whole=True) == content
    # Taken off and put back it need not be written again.
    assert session.photos.remove_photo(kept)
    assert session.photos.put_back_photo()
    assert writers == [False]
    (back,) = session.photos.of("inspect/vents")
    assert session.photos.picture(back, whole=True) == content
    session.close()


def test_of_several_at_once_each_is_kept_also_those_of_one_name(qtbot: QtBot, demo_file: Path, tmp_path: Path) -> None:
    session = threaded(demo_file, tmp_path)
    strip = PhotoStrip(session)
    qtbot.addWidget(strip)
    strip.show_subject("inspect/vents")
    contents = [picture(900 + k, 700) for k in range(3)]
    dropped = QMimeData()
    paths = []
    for k, (folder, name) in enumerate((("a", "IMG_1.jpg"), ("b", "IMG_1.jpg"), ("c", "other.jpg"))):
        (tmp_path / folder).mkdir()
        paths.append(tmp_path / folder / name)
        paths[-1].write_bytes(contents[k])
    dropped.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    assert strip.take(dropped)
    pasted = QMimeData()
    pasted.setImageData(QImage.fromData(QByteArray(picture(50, 40))))
    for _ in range(3):
        assert strip.take(pasted)
    assert len(session.photos.photos_waiting) == 6
    qtbot.waitUntil(lambda: len(session.photos.of("inspect/vents")) == 6, timeout=60_000)
    kept = session.photos.of("inspect/vents")
    assert [one.name for one in kept] == ["IMG_1.jpg", "IMG_1.jpg", "other.jpg", *["pasted picture"] * 3]
    assert [session.photos.picture(one, whole=True) for one in kept[:3]] == contents
    assert not session.photos.photos_waiting
    session.close()


def test_a_photo_is_filed_under_the_build_at_which_it_was_given(qtbot: QtBot, demo_file: Path, tmp_path: Path) -> None:
    session = threaded(demo_file, tmp_path)
    first = session.stored.id
    other = next(one.id for one in session.workshop.builds() if one.id != first)
    strip = PhotoStrip(session)
    qtbot.addWidget(strip)
    strip.show_subject("inspect/vents")
    strip.add("slow.jpg", lambda: picture(2500, 2000))
    session.switch(other)
    qtbot.waitUntil(lambda: not session.photos.photos_waiting, timeout=60_000)
    assert [one.name for one in session.workshop.photos(first)] == ["slow.jpg"]
    assert session.workshop.photos(other) == []
    session.close()


def test_closing_says_what_is_not_kept_yet(window: PlinthWindow, session: BenchSession) -> None:
    number = session.photos.photo_begun("left side.jpg")
    assert not window.close()
    assert "left side.jpg" in window.trouble.text()
    session.photos.photo_ended(number)
    assert window.close()


@pytest.mark.parametrize("form", ["JPG", "PNG", "WEBP", "BMP", "GIF"])
@pytest.mark.parametrize("share", [0.3, 0.6, 0.95])
def test_a_part_of_a_picture_is_refused_in_every_format(form: str, share: float) -> None:
    whole = picture(640, 480, form if form != "GIF" else "PNG")
    if form == "GIF":
        # One black point (GIF89a, 35 bytes): Qt reads this format and does not write it.
        whole = bytes.fromhex("4749463839610100010080000000000000000021f90400000000002c00000000010001000002024401003b")
    assert picture_format(whole) == {"JPG": "jpeg"}.get(form, form.lower())
    assert not cut_short(whole)
    assert scaled_copy(whole, "whole").startswith(b"\xff\xd8")
    with pytest.raises(PictureError, match=r"part of the picture|no picture|broken"):
        scaled_copy(whole[: int(share * len(whole))], "half")


def test_a_small_picture_inside_a_jpeg_does_not_stand_for_the_whole() -> None:
    """Cameras put one into the head of the file; what follows it may still be torn off."""
    small, whole = picture(40, 30), picture(640, 480)
    head = b"\xff\xe1" + (len(small) + 2).to_bytes(2, "big") + small
    photo = whole[:2] + head + whole[2:]
    assert not cut_short(photo)
    assert scaled_copy(photo, "photo")
    for share in (0.4, 0.7, 0.95):
        with pytest.raises(PictureError, match="part of the picture"):
            scaled_copy(photo[: len(photo) - int((1.0 - share) * len(whole))], "photo")


def test_a_drawing_that_would_be_run_is_no_picture() -> None:
    nested = "".join(f'<g id="a{k}"><use href="#a{k - 1}"/><use href="#a{k - 1}"/></g>' for k in range(1, 30))
    for text in (f'<svg xmlns="http://www.w3.org/2000/svg"><defs>{nested}</defs></svg>', '<?xml version="1.0"?><svg/>'):
        with pytest.raises(PictureError, match="found no picture"):
            scaled_copy(text.encode(), "drawing.svg")


def test_sixteen_bits_a_colour_count_twice(monkeypatch: pytest.MonkeyPatch) -> None:
    deep = QImage(60, 40, QImage.Format.Format_RGBX64)
    deep.fill(QColor("peru"))
    content = image_content(deep)
    assert content[24] == 16
    monkeypatch.setattr(scaling, "MOST_PIXELS", 60 * 40 * 2)
    assert scaled_copy(content, "deep.png")
    monkeypatch.setattr(scaling, "MOST_PIXELS", 60 * 40 * 2 - 2)
    with pytest.raises(PictureError, match="60 x 40 points"):
        scaled_copy(content, "deep.png")
    assert scaled_copy(picture(60, 40, "PNG"), "plain.png")


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
    assert words in strip.said.text()
    assert session.photos.of() == []
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
    assert [one.name for one in session.photos.of()] == ["pasted picture"]
    files = QMimeData()
    paths = [tmp_path / "one.png", tmp_path / "two.webp"]
    for path in paths:
        path.write_bytes(picture(60, 30, path.suffix[1:].upper()))
    files.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    assert strip.take(files)
    assert [one.name for one in session.photos.of()] == ["pasted picture", "one.png", "two.webp"]
    words = QMimeData()
    words.setText("only words")
    assert not strip.take(words)
    assert image_content(QImage.fromData(QByteArray(picture(9, 9)))).startswith(b"\x89PNG")


def test_marks_and_words_are_kept_as_they_are_typed(
    strip: PhotoStrip, session: BenchSession, window: PlinthWindow, tmp_path: Path
) -> None:
    strip.add("switch.jpg", lambda: picture(800, 600))
    (photo,) = session.photos.of()
    viewer = PhotoViewer(window, session, photo)
    viewer.show()
    viewer.words.setText("The switch from behind")
    viewer.words.editingFinished.emit()
    place = viewer.picture.place()
    at = place.topLeft() + (place.bottomRight() - place.topLeft()) * 0.25
    QTest.mouseClick(viewer.picture, Qt.MouseButton.LeftButton, pos=at.toPoint())
    viewer.mark_words.setText("")
    viewer.keep_mark()
    assert session.photos.of()[0].marks == ()
    viewer.mark_words.setText("sleeve slid back")
    QTest.keyClick(viewer.mark_words, Qt.Key.Key_Return)
    # By keys alone: arrows and Space.
    viewer.picture.setFocus()
    for _ in range(5):
        QTest.keyClick(viewer.picture, Qt.Key.Key_Right)
    QTest.keyClick(viewer.picture, Qt.Key.Key_Space)
    viewer.mark_words.setText("bare tag")
    QTest.keyClick(viewer.mark_words, Qt.Key.Key_Return)
    (kept,) = session.photos.of()
    assert kept.words == "The switch from behind"
    assert [one.words for one in kept.marks] == ["sleeve slid back", "bare tag"]
    assert (kept.marks[0].x, kept.marks[0].y) == pytest.approx((0.25, 0.25), abs=0.01)
    assert (kept.marks[1].x, kept.marks[1].y) == pytest.approx((0.6, 0.5))
    viewer.list.setCurrentRow(0)
    viewer.drop_mark()
    assert [one.words for one in session.photos.of()[0].marks] == ["bare tag"]
    viewer.save(tmp_path / "out.jpg")
    assert (tmp_path / "out.jpg").read_bytes() == picture(800, 600)
    viewer.save(tmp_path / "no" / "such" / "out.jpg")
    assert "could not be written" in viewer.said.text()
    viewer.take_off()
    assert session.photos.of() == []
    assert strip.back_button.isVisibleTo(strip)
    strip.back_button.click()
    (back,) = session.photos.of()
    assert back.words == "The switch from behind"
    assert [one.words for one in back.marks] == ["bare tag"]


def test_photos_belong_to_steps_readings_and_notes_as_well(window: PlinthWindow, session: BenchSession) -> None:
    window.show_stage("power_up")
    window.power_up.photos.add("bias.jpg", lambda: picture(80, 60))
    step = window.power_up.question.step
    assert step is not None
    assert [one.name for one in session.photos.of(step.subject)] == ["bias.jpg"]
    window.show_stage("measure")
    for name in ("Rails", "Clipping power", "Response"):
        window.measure.show_named(name)
        window.measure.photos.add(f"screen {name}.jpg", lambda: picture(80, 60))
        assert [one.name for one in session.photos.of(window.measure.test.subject)] == [f"screen {name}.jpg"]
    window.show_stage("diary")
    diary = window.diary
    rows = diary.lines.rowCount()
    diary.table.selectRow(rows - 1)
    assert diary.photos.isVisible()
    diary.photos.add("the box.jpg", lambda: picture(80, 60))
    note = diary.lines.line(rows - 1)
    assert note is not None
    assert note.kind == "note"
    assert [one.name for one in session.photos.of(f"line/{note.at.isoformat()}")] == ["the box.jpg"]
    # Another build has none of them.
    session.switch(2)
    assert session.photos.of() == []


def test_a_huge_original_is_kept_as_its_copy_only(
    strip: PhotoStrip, session: BenchSession, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(limits, "MOST_BYTES", 2000)
    strip.add("large.png", lambda: picture(900, 900, "BMP"))
    (photo,) = session.photos.of()
    assert session.photos.picture(photo, whole=True) == session.photos.picture(photo, whole=False)
    assert "only its scaled copy is kept" in strip.said.text()


def test_a_damaged_photo_is_named_and_the_others_are_saved(session: BenchSession, tmp_path: Path) -> None:
    build, whole = session.stored.id, picture(300, 200)
    for name in ("good.jpg", "bad.jpg"):
        session.photos.add_photo("inspect/vents", name, whole, scaled_copy(whole, name))
    good = session.photos.of()[0]
    assert session.photos.change_photo(good, "a round top", (PhotoMark(0.2, 0.7, "here"),))
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
    assert (kept.name, kept.words, kept.marks) == ("good.jpg", "a round top", (PhotoMark(0.2, 0.7, "here"),))
    assert again.photo_picture(kept.number, whole=False) is not None
    again.close()


def test_a_mark_lies_on_its_picture() -> None:
    with pytest.raises(ValueError, match="between 0 and 1"):
        PhotoMark(1.2, 0.5, "beside it")
    assert read_marks("[]") == ()
