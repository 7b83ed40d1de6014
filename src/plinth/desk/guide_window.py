"""The guide, beside whatever goes on: topics searched as one types, read, and led through by links."""

from PySide6.QtCore import QByteArray, QRectF, Qt, QUrl
from PySide6.QtGui import QImage, QKeyEvent, QPainter
from PySide6.QtSvg import QSvgRenderer
from PySide6.QtWidgets import QDialog, QHBoxLayout, QLineEdit, QListWidget, QListWidgetItem, QTextBrowser, QWidget

from plinth.desk.labels import button, column, label
from plinth.desk.look import FAMILY, look
from plinth.desk.tokens import DARK, LIGHT
from plinth.manual.pages import picture, topic_html
from plinth.manual.sections import Section, found, section_at

# What a page of the usual size has room for beside the topics.
WIDEST_PX = 600


class GuidePage(QTextBrowser):
    """A page whose pictures are drawn in the look in force."""

    def loadResource(self, kind: int, name: QUrl | str) -> object:
        """A picture of the guide; anything else as ever."""
        path = name if isinstance(name, str) else name.toString()
        if not path.startswith("pictures/"):
            return super().loadResource(kind, name)
        return drawn(picture(path), self.devicePixelRatioF())


def drawn(svg: str, ratio: float) -> QImage:
    """A picture of the guide for the screen, ``ratio`` dots to one of its own; its colours are those of the look."""
    for role, colour in LIGHT.items() if look.dark else ():
        svg = svg.replace(f'"{colour}"', f'"{DARK[role]}"')
    renderer = QSvgRenderer(QByteArray(svg.encode()))
    size = renderer.defaultSize()
    wide = look.column(min(size.width(), WIDEST_PX))
    high = wide * size.height() / size.width()
    image = QImage(round(wide * ratio), round(high * ratio), QImage.Format.Format_ARGB32_Premultiplied)
    image.setDevicePixelRatio(ratio)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    renderer.render(painter, QRectF(0.0, 0.0, wide, high))
    painter.end()
    return image


class GuideWindow(QDialog):
    """``place`` what is shown: ``topic`` or ``topic#anchor``."""

    def __init__(self, parent: QWidget, place: str) -> None:
        super().__init__(parent)
        # As every dialog is; those lead here by F1, so this one is made of none of theirs.
        self.setStyleSheet(look.style_sheet())
        self.setWindowTitle("Plinth: guide")
        self.setModal(False)
        look.size(self, 960, 660)
        self.place, self._topic = "", ""
        self._came_from: list[str] = []
        self.search = QLineEdit()
        self.search.setPlaceholderText("Search")
        self.search.setAccessibleName("Search the guide")
        self.search.setClearButtonEnabled(True)
        self.list = QListWidget()
        self.list.setAccessibleName("Topics and what is found")
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setWordWrap(True)
        self.counted = label("", "small", wrap=True)
        self.page = GuidePage()
        self.page.setAccessibleName("The guide")
        self.page.setOpenLinks(False)
        self.page.setStyleSheet(f"QTextBrowser {{ background: {look.token('sheet').name()}; }}")
        self.page.anchorClicked.connect(self._follow)
        self.back_button, close = button("Back  Alt+←"), button("Close  Esc")
        self.back_button.clicked.connect(self.back)
        close.clicked.connect(self.close)
        left_box = column(self.search, self.counted, self.list, spacing=6)
        left = QWidget()
        left.setLayout(left_box)
        left.setFixedWidth(look.column(270))
        foot = QHBoxLayout()
        foot.addWidget(self.back_button)
        foot.addStretch()
        foot.addWidget(close)
        right = column(self.page, spacing=8)
        right.addLayout(foot)
        box = QHBoxLayout(self)
        box.setSpacing(14)
        box.addWidget(left)
        box.addLayout(right, 1)
        self.search.textChanged.connect(self._look_for)
        self.list.currentItemChanged.connect(self._chosen)
        self._look_for("")
        self.go_to(place)
        self.search.setFocus()

    def go_to(self, place: str) -> None:
        """Show a place; where there is none of that name, the beginning."""
        section = section_at(place) or section_at("begin")
        assert section is not None, "the guide has a beginning"
        if self.place and self.place != section.place:
            self._came_from.append(self.place)
        self._show(section)

    def back(self) -> None:
        """The place before this one."""
        if self._came_from:
            section = section_at(self._came_from.pop())
            if section is not None:
                self._show(section)

    def _show(self, section: Section) -> None:
        if section.topic != self._topic:
            self._topic = section.topic
            self.page.document().setDefaultStyleSheet(_style())
            self.page.setHtml(topic_html(section.topic))
        self.page.scrollToAnchor(section.topic if section.level == 1 else section.anchor)
        self.place = section.place
        self.back_button.setEnabled(bool(self._came_from))
        for row in range(self.list.count()):
            item = self.list.item(row)
            if item.data(Qt.ItemDataRole.UserRole) in (section.place, section.topic):
                self.list.blockSignals(True)
                self.list.setCurrentItem(item)
                self.list.blockSignals(False)
                break

    def _look_for(self, words: str) -> None:
        sections = found(words)
        # Without words the topics stand there, with them whatever section holds them.
        shown = [section for section in sections if words.strip() or section.level == 1]
        self.list.blockSignals(True)
        self.list.clear()
        for section in shown:
            topic = section_at(section.topic)
            below = "" if section.level == 1 or topic is None else f"\n{topic.title}"
            item = QListWidgetItem(f"{section.title}{below}")
            item.setData(Qt.ItemDataRole.UserRole, section.place)
            self.list.addItem(item)
        self.list.blockSignals(False)
        count = len(shown)
        self.counted.setText(
            "" if not words.strip() else f"{count} place{'s' * (count != 1)}" if count else "Nothing: try other words"
        )

    def _chosen(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            self.go_to(str(item.data(Qt.ItemDataRole.UserRole)))

    def _follow(self, link: QUrl) -> None:
        self.go_to(link.toString())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Left and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self.back()
        elif event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.search.hasFocus():
            self.list.setFocus()
            self.list.setCurrentRow(max(self.list.currentRow(), 0))
        else:
            super().keyPressEvent(event)


def _style() -> str:
    ink, soft, sunk, rule = (look.token(name).name() for name in ("ink", "ink2", "sunk", "rule"))
    size = look.px(14)
    return (
        f"body {{ color: {ink}; font-size: {size}px; }} h1 {{ font-size: {look.px(22)}px; }} "
        f"h2 {{ font-size: {look.px(16)}px; }} a {{ color: {ink}; }} "
        f'code {{ background: {sunk}; font-family: "{FAMILY}"; }} '
        f"td, th {{ border: 1px solid {rule}; padding: 3px 8px; }} p {{ line-height: 135%; }} em {{ color: {soft}; }}"
    )


def open_guide(parent: QWidget, place: str) -> GuideWindow:
    """The guide at a place: the one that is open beside this window, else another."""
    shown = next((each for each in parent.findChildren(GuideWindow) if each.isVisible()), None)
    if shown is None:
        shown = GuideWindow(parent, place)
        shown.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        shown.show()
    else:
        shown.go_to(place)
        shown.raise_()
        shown.activateWindow()
    return shown
