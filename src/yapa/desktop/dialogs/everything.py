"""Every number and choice of the case in one list, found by a word, each changed where it stands."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PySide6.QtCore import (
    QAbstractItemModel,
    QAbstractTableModel,
    QModelIndex,
    QPersistentModelIndex,
    QRegularExpression,
    QSortFilterProxyModel,
    Qt,
)
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QHeaderView,
    QLineEdit,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.theme import font, px, theme
from yapa.desktop.widgets.card import label
from yapa.desktop.widgets.choice import Choice
from yapa.desktop.widgets.form_dialog import show_once
from yapa.session.entries import Entry, entries_of, set_entry

if TYPE_CHECKING:
    from yapa.desktop.app.main_window import MainWindow

Index = QModelIndex | QPersistentModelIndex
WHERE, VALUE, UNIT = range(3)
HEADS = ("what", "value", "unit")


class Entries(QAbstractTableModel):
    """The entries of the case that is open; one that is set is an edit."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.entries: list[Entry] = []
        self.refresh()

    def refresh(self) -> None:
        """Show the present case; rows stay where nothing but values changed."""
        case = self._session.case
        found = entries_of(case) if case is not None else []
        if [e.where for e in found] == [e.where for e in self.entries]:
            self.entries = found
            if found:
                self.dataChanged.emit(self.index(0, VALUE), self.index(len(found) - 1, UNIT))
            return
        self.beginResetModel()
        self.entries = found
        self.endResetModel()

    def rowCount(self, parent: Index = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(self.entries)

    def columnCount(self, parent: Index = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(HEADS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        return HEADS[section] if role == Qt.ItemDataRole.DisplayRole and orientation == Qt.Orientation.Horizontal else None

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        entry = self.entries[index.row()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            return (entry.words, entry.text, entry.unit)[index.column()]
        if role == Qt.ItemDataRole.ToolTipRole:
            return entry.words if index.column() == WHERE else entry.text
        if role == Qt.ItemDataRole.ForegroundRole and index.column() == UNIT:
            return theme().color("soft")
        return None

    def setData(self, index: Index, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        entry = self.entries[index.row()]
        return value == entry.text or self._session.make_by_hand(set_entry(entry.where, str(value)))

    def flags(self, index: Index) -> Qt.ItemFlag:
        flags = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        return flags | Qt.ItemFlag.ItemIsEditable if index.column() == VALUE else flags


class Editor(QStyledItemDelegate):
    """A field for what can be anything, a box for what is one of several."""

    def createEditor(self, parent: QWidget, option: QStyleOptionViewItem, index: Index) -> QWidget:
        source = index.model()
        assert isinstance(source, QSortFilterProxyModel)
        entries = source.sourceModel()
        assert isinstance(entries, Entries)
        entry = entries.entries[source.mapToSource(index).row()]
        editor: QWidget
        if entry.choices:
            editor = Choice()
            editor.setParent(parent)
            editor.addItems(list(entry.choices))
            editor.activated.connect(lambda _k: self.commitData.emit(editor))
        else:
            editor = QLineEdit(parent)
        editor.setAccessibleName(entry.words)
        return editor

    def setEditorData(self, editor: QWidget, index: Index) -> None:
        text = index.data(Qt.ItemDataRole.EditRole)
        if isinstance(editor, QComboBox):
            editor.setCurrentText(text)
        elif isinstance(editor, QLineEdit):
            editor.setText(text)

    def setModelData(self, editor: QWidget, model: QAbstractItemModel, index: Index) -> None:
        text = editor.currentText() if isinstance(editor, QComboBox) else editor.text() if isinstance(editor, QLineEdit) else ""
        model.setData(index, text)


class EverythingDialog(QDialog):
    """The list, and a field that narrows it."""

    def __init__(self, parent: QWidget | None, session: Session) -> None:
        super().__init__(parent)
        self.setWindowTitle("Every number and choice")
        self.resize(px(640), px(560))
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 14, 16, 12)
        self.words = QLineEdit()
        self.words.setPlaceholderText("a word of its name, as in: orange velocity")
        self.words.setAccessibleName("words of a number")
        self.words.setToolTip("Narrows the list; ↓ goes to it")
        self.words.textChanged.connect(self._narrow)
        column.addWidget(self.words)
        self.entries = Entries(session)
        self.shown = QSortFilterProxyModel(self)
        self.shown.setSourceModel(self.entries)
        self.shown.setFilterCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self.shown.setFilterKeyColumn(WHERE)
        self.list = QTableView()
        self.list.setAccessibleName("numbers and choices")
        self.list.setModel(self.shown)
        self.list.setItemDelegate(Editor(self.list))
        self.list.setFont(font(10))
        self.list.setShowGrid(False)
        self.list.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.list.setEditTriggers(QAbstractItemView.EditTrigger.AllEditTriggers)
        self.list.verticalHeader().hide()
        self.list.verticalHeader().setDefaultSectionSize(24)
        self.list.horizontalHeader().setHighlightSections(False)
        self.list.horizontalHeader().setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        self.list.horizontalHeader().setSectionResizeMode(WHERE, QHeaderView.ResizeMode.Stretch)
        self.list.setColumnWidth(VALUE, 190)
        self.list.setColumnWidth(UNIT, 60)
        column.addWidget(self.list, 1)
        column.addWidget(label("Enter sets a value; a number takes any unit. Every change can be undone", 9, role="soft"))
        buttons = QDialogButtonBox()
        buttons.addButton("Close", QDialogButtonBox.ButtonRole.RejectRole)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)
        session.case_changed.connect(self.entries.refresh)

    def _narrow(self, words: str) -> None:
        """Show what has every word, in any order."""
        every = "".join(f"(?=.*{QRegularExpression.escape(w)})" for w in words.lower().split())
        self.shown.setFilterRegularExpression(
            QRegularExpression(f"^{every}", QRegularExpression.PatternOption.CaseInsensitiveOption))


def open_dialog(window: MainWindow) -> None:
    """Show the list beside the window."""
    if window.session.case is not None:
        show_once(EverythingDialog(window, window.session))
