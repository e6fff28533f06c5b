"""The theme as Qt sees it: colours, fonts and the style sheet, all made from `picture.theme`."""

from __future__ import annotations

from typing import ClassVar

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QPainterPath, QPalette, QPen, QPolygonF
from PyQt6.QtWidgets import QApplication

from bovrin.cast import FONTS
from bovrin.picture.theme import FONT_NUMBERS, FONT_TEXT, PAPER, Theme

SIZE_TEXT = 13
SIZE_SMALL = 11
MOST_COLOURS = 1000
"""Colours that are kept; more there are only while something fades."""


class Look:
    """The theme in force. Widgets ask it for colours each time they paint."""

    theme: Theme = PAPER
    _colours: ClassVar[dict[tuple[str, str, float], QColor]] = {}

    @classmethod
    def colour(cls, role: str, alpha: float = 1.0) -> QColor:
        """The colour of a role, such as "ink"; the same object each time, not to be changed."""
        key = (cls.theme.name, role, alpha)
        if key not in cls._colours:
            if len(cls._colours) > MOST_COLOURS:
                cls._colours.clear()
            cls._colours[key] = QColor(getattr(cls.theme, role))
            cls._colours[key].setAlphaF(alpha)
        return cls._colours[key]

    @classmethod
    def pen(cls, role: str, width: float = 1.0, alpha: float = 1.0) -> QPen:
        """A pen of a role."""
        return QPen(cls.colour(role, alpha), width)

    @classmethod
    def side(cls, side: str) -> str:
        """The role that stands for a side of a figure."""
        return side or "middle"


def text_font(size: int = SIZE_TEXT, *, bold: bool = False) -> QFont:
    """The font for words."""
    font = QFont(FONT_TEXT)
    font.setPixelSize(size)
    if bold:
        font.setWeight(QFont.Weight.DemiBold)
    return font


def number_font(size: int = SIZE_SMALL) -> QFont:
    """The font for numbers."""
    font = QFont(FONT_NUMBERS)
    font.setPixelSize(size)
    return font


def load_fonts() -> None:
    """Make the shipped fonts known to Qt."""
    for path in sorted(FONTS.glob("*.otf")):
        QFontDatabase.addApplicationFont(str(path))


def icon_path(name: str) -> QPainterPath:
    """A small drawn sign in a 16 x 16 box: play, stop, before, after, undo, redo, menu, close, enlarge, seen, hidden."""
    path = QPainterPath()
    if name == "play":
        path.addPolygon(QPolygonF([QPointF(4, 2.5), QPointF(13.5, 8), QPointF(4, 13.5), QPointF(4, 2.5)]))
    elif name == "stop":
        path.addRect(QRectF(4, 4, 8, 8))
    elif name in ("before", "after"):
        xs = (10.5, 5) if name == "before" else (5.5, 11)
        path.addPolygon(QPolygonF([QPointF(xs[0], 4), QPointF(xs[1], 8), QPointF(xs[0], 12), QPointF(xs[0], 4)]))
    elif name in ("undo", "redo"):
        path = _turning_arrow(flip=name == "redo")
    elif name == "menu":
        for y in (4.0, 7.6, 11.2):
            path.addRect(QRectF(2.5, y, 11, 1.3))
    elif name in ("seen", "hidden"):
        _add_eye(path, shut=name == "hidden")
    elif name in STROKES:
        for start, end in STROKES[name]:
            path.moveTo(*start)
            path.lineTo(*end)
    return path


STROKES = {
    "close": (((4, 4), (12, 12)), ((12, 4), (4, 12))),
    "enlarge": (
        ((9, 3), (13, 3)),
        ((13, 3), (13, 7)),
        ((13, 3), (9, 7)),
        ((7, 13), (3, 13)),
        ((3, 13), (3, 9)),
        ((3, 13), (7, 9)),
    ),
}


def _add_eye(path: QPainterPath, *, shut: bool) -> None:
    path.moveTo(2, 8)
    path.cubicTo(5, 3.2, 11, 3.2, 14, 8)
    path.cubicTo(11, 12.8, 5, 12.8, 2, 8)
    if shut:
        path.moveTo(3, 13)
        path.lineTo(13, 3)
    else:
        path.addEllipse(QPointF(8, 8), 2, 2)


def _turning_arrow(*, flip: bool) -> QPainterPath:
    path = QPainterPath(QPointF(5, 12.5))
    path.arcTo(QRectF(2.5, 4.5, 10.5, 8), -90, 180)
    path.lineTo(3.5, 4.5)
    path.moveTo(6.5, 1.5)
    path.lineTo(3.5, 4.5)
    path.lineTo(6.5, 7.5)
    if flip:
        mirrored = QPainterPath()
        for i in range(path.elementCount()):
            e = path.elementAt(i)
            if e.isMoveTo():
                mirrored.moveTo(16 - e.x, e.y)
            else:
                mirrored.lineTo(16 - e.x, e.y)
        return mirrored
    return path


def style_sheet(theme: Theme) -> str:
    """The application's style sheet."""
    t = theme
    return f"""
    QMainWindow, QDialog, QMessageBox {{ background: {t.desk}; }}
    QWidget#Panel {{ background: {t.panel}; border: 1px solid {t.hairline}; border-radius: 8px; }}
    QLabel#Title {{ font-size: {SIZE_SMALL}px; font-weight: 600; color: {t.muted}; letter-spacing: 1px; }}
    QPushButton#Fold {{ font-size: {SIZE_SMALL}px; font-weight: 600; color: {t.muted}; letter-spacing: 1px;
        background: transparent; border: none; padding: 1px 0; text-align: left; }}
    QPushButton#Link {{ background: transparent; border: none; padding: 1px 5px; color: {t.accent}; font-weight: 600; }}
    QPushButton#Link:hover {{ background: {t.accent_wash}; border-radius: 6px; }}
    QLabel#NoteSign {{ color: {t.alert}; font-weight: 600; }}
    QPushButton#Fold:hover {{ color: {t.ink}; }}
    QPushButton#Fold:focus {{ color: {t.accent}; }}
    QPushButton#Put {{ font-size: {SIZE_SMALL}px; font-weight: 600; color: {t.muted}; letter-spacing: 1px;
        background: {t.panel}; border: 1px solid {t.hairline}; border-radius: 8px; padding: 3px 9px; }}
    QPushButton#Put:hover, QPushButton#Put:focus {{ color: {t.ink}; border-color: {t.accent}; }}
    QWidget#Start {{ background: {t.desk}; }}
    QLabel#Large {{ font-size: 34px; font-weight: 600; }}
    QLabel#Name {{ font-size: 18px; font-weight: 600; }}
    QLabel#Muted, QLabel#Hint {{ color: {t.muted}; }}
    QLabel#Fault {{ color: {t.alert}; font-weight: 600; }}
    QLabel#Number {{ font-family: '{FONT_NUMBERS}'; font-size: {SIZE_SMALL}px; color: {t.muted}; }}
    QPushButton {{ background: {t.raised}; border: 1px solid {t.hairline}; border-radius: 12px; padding: 3px 10px; }}
    QPushButton:hover {{ border-color: {t.accent}; }}
    QPushButton:focus {{ border: 1px solid {t.accent}; }}
    QPushButton:disabled {{ color: {t.hairline}; }}
    QPushButton:checked {{ background: {t.accent}; color: {t.on_accent}; border-color: {t.accent}; }}
    QPushButton#Pass {{ background: transparent; border: none; border-radius: 12px; padding: 4px 15px; }}
    QPushButton#Pass:hover {{ background: {t.accent_wash}; }}
    QPushButton#Pass:checked {{ background: {t.accent}; color: {t.on_accent}; font-weight: 600; }}
    QToolButton {{ background: transparent; border: none; border-radius: 6px; padding: 2px; }}
    QToolButton:hover {{ background: {t.accent_wash}; }}
    QToolButton::menu-indicator {{ image: none; }}
    QComboBox {{ background: {t.raised}; border: 1px solid {t.hairline}; border-radius: 6px; padding: 1px 6px; }}
    QComboBox::drop-down {{ border: none; width: 0; }}
    QComboBox:hover, QComboBox:focus {{ border-color: {t.accent}; }}
    QComboBox QAbstractItemView {{ background: {t.raised}; color: {t.ink}; }}
    QLineEdit, QDoubleSpinBox, QSpinBox {{ background: {t.raised}; border: 1px solid {t.hairline}; border-radius: 6px;
        padding: 1px 5px; selection-background-color: {t.accent}; selection-color: {t.on_accent}; }}
    QLineEdit#Typed {{ font-family: '{FONT_NUMBERS}'; font-size: {SIZE_SMALL}px; padding: 1px 2px; }}
    QDoubleSpinBox, QSpinBox {{ font-family: '{FONT_NUMBERS}'; font-size: {SIZE_SMALL}px; }}
    QLineEdit:focus, QDoubleSpinBox:focus, QSpinBox:focus {{ border-color: {t.accent}; }}
    QListWidget, QTreeWidget, QTableWidget {{ background: transparent; border: none; outline: none; }}
    QListWidget::item {{ padding: 1px 4px; border-radius: 6px; }}
    QListWidget::item:hover {{ background: {t.raised}; }}
    QListWidget::item:selected {{ background: {t.accent_wash}; color: {t.ink}; }}
    QListWidget::indicator {{ width: 11px; height: 11px; border: 1px solid {t.muted}; border-radius: 4px;
        background: {t.raised}; margin-right: 4px; }}
    QListWidget::indicator:checked {{ background: {t.before}; border-color: {t.before}; }}
    QMenu {{ background: {t.raised}; border: 1px solid {t.hairline}; padding: 4px; }}
    QMenu::item {{ padding: 4px 22px 4px 12px; border-radius: 5px; }}
    QMenu::item:selected {{ background: {t.accent_wash}; }}
    QMenu::item:disabled {{ color: {t.hairline}; }}
    QMenu::separator {{ height: 1px; background: {t.hairline}; margin: 4px 8px; }}
    QFrame#Popover {{ background: {t.panel}; border: 1px solid {t.accent}; border-radius: 8px; }}
    QPushButton#State {{ background: transparent; border: none; padding: 0 6px; color: {t.muted};
        font-family: '{FONT_NUMBERS}'; font-size: {SIZE_SMALL}px; }}
    QPushButton#State:hover {{ color: {t.ink}; }}
    QDialog#Finder {{ background: {t.raised}; border: 1px solid {t.accent}; }}
    QToolTip {{ background: {t.raised}; color: {t.ink}; border: 1px solid {t.hairline}; padding: 3px; }}
    QScrollArea, QScrollArea > QWidget > QWidget#Inside {{ background: transparent; border: none; }}
    QScrollBar:vertical {{ background: transparent; width: 8px; margin: 0; }}
    QScrollBar::handle:vertical {{ background: {t.hairline}; border-radius: 4px; min-height: 24px; }}
    QScrollBar:horizontal {{ background: transparent; height: 8px; margin: 0; }}
    QScrollBar::handle:horizontal {{ background: {t.hairline}; border-radius: 4px; min-width: 24px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; width: 0; }}
    QSplitter::handle {{ background: transparent; }}
    QSlider::groove:horizontal {{ height: 2px; background: {t.hairline}; }}
    QSlider::handle:horizontal {{ background: {t.raised}; border: 2px solid {t.ink}; width: 10px; height: 10px;
        margin: -6px 0; border-radius: 7px; }}
    QWidget#Notice {{ background: {t.raised}; border: 1px solid {t.alert}; border-radius: 8px; }}
    QWidget#Notice[calm="true"] {{ border-color: {t.accent}; }}
    """


def palette(theme: Theme) -> QPalette:
    """The colours of everything that the style sheet does not name."""
    made = QPalette()
    roles = QPalette.ColorRole
    for role, colour in (
        (roles.Window, theme.desk),
        (roles.WindowText, theme.ink),
        (roles.Base, theme.raised),
        (roles.Text, theme.ink),
        (roles.Button, theme.raised),
        (roles.ButtonText, theme.ink),
        (roles.PlaceholderText, theme.muted),
        (roles.Highlight, theme.accent),
        (roles.HighlightedText, theme.on_accent),
        (roles.ToolTipBase, theme.raised),
        (roles.ToolTipText, theme.ink),
    ):
        made.setColor(role, QColor(colour))
    return made


def apply_theme(app: QApplication, theme: Theme) -> None:
    """Dress the whole application."""
    Look.theme = theme
    app.setFont(text_font())
    app.setPalette(palette(theme))
    app.setStyleSheet(style_sheet(theme))
    for widget in app.allWidgets():
        widget.update()


LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
CENTRE = Qt.AlignmentFlag.AlignCenter
