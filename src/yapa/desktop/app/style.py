"""The style sheet; ``$ink`` and its like are the colours of the theme that is in use."""

from __future__ import annotations

from string import Template

STYLE = Template("""
QWidget { background: $ground; color: $ink; }
QLabel, QCheckBox, QRadioButton { background: transparent; }
$roles
QFrame#card { background: $card; border: 1px solid $hairline; border-radius: 6px; }
QFrame#card QWidget { background: transparent; }
QFrame#chosen { background: $card; border: 2px solid $ink; border-radius: 6px; }
QFrame#chosen QWidget { background: transparent; }
QFrame#pinned { background: $card; border: 2px solid $pinned; border-radius: 6px; }
QFrame#pinned QWidget { background: transparent; }
QFrame#bar { border: 0; border-bottom: 1px solid $hairline; }
QFrame#foot { border: 0; border-top: 1px solid $hairline; }
QPushButton { background: $card; border: 1px solid $hairline; border-radius: 4px; padding: 4px 10px; }
QPushButton:hover, QPushButton:focus { border-color: $ink; }
QPushButton:disabled { color: $soft; }
QPushButton#fit { background: $simulated; color: $card; border: 0; border-radius: 12px; padding: 5px 20px;
    font-weight: bold; min-height: 16px; }
QPushButton#fit:focus { border: 2px solid $ink; padding: 3px 18px; }
QPushButton#fit:disabled { background: $hairline; color: $soft; }
QPushButton#stop { background: $trouble; color: $card; border: 0; border-radius: 12px; padding: 5px 20px;
    font-weight: bold; min-height: 16px; }
QComboBox::drop-down { border: 0; width: 18px; }
QComboBox::down-arrow { width: 0; height: 0; border-left: 4px solid $card; border-right: 4px solid $card;
    border-top: 5px solid $ink; margin-right: 4px; }
QCheckBox::indicator { width: 11px; height: 11px; border: 1px solid $soft; border-radius: 3px;
    background: $card; }
QCheckBox::indicator:checked { background: $ink; border-color: $ink; }
QCheckBox::indicator:focus { border: 2px solid $simulated; }
QStatusBar { border-top: 1px solid $hairline; }
QStatusBar::item { border: 0; }
QPushButton#quiet { border: 0; background: transparent; color: $simulated; text-align: left; padding: 2px 4px; }
QPushButton#quiet:hover, QPushButton#quiet:focus { text-decoration: underline; }
QPushButton#page { border: 1px solid $hairline; border-radius: 10px; padding: 3px 16px; min-height: 14px;
    background: $card; }
QPushButton#page:checked { background: $ink; color: $card; border-color: $ink; }
QPushButton#page:focus { border-color: $ink; }
QPushButton#switch { padding: 3px 4px; }
QPushButton#switch:checked { background: $ink; color: $card; border-color: $ink; }
QFrame#rule { background: $hairline; border: 0; }
QPushButton#small { border: 0; background: transparent; color: $soft; padding: 0 2px; }
QPushButton#small:hover, QPushButton#small:focus { color: $ink; text-decoration: underline; }
QLineEdit, QDoubleSpinBox, QSpinBox, QComboBox, QPlainTextEdit { background: $card;
    border: 1px solid $hairline; border-radius: 4px; padding: 2px 4px; selection-background-color: $simulated; }
QSpinBox::up-button, QSpinBox::down-button { border: 0; width: 16px; background: transparent; }
QSpinBox::up-arrow { width: 0; height: 0; border-left: 4px solid $card; border-right: 4px solid $card;
    border-bottom: 5px solid $ink; }
QSpinBox::down-arrow { width: 0; height: 0; border-left: 4px solid $card; border-right: 4px solid $card;
    border-top: 5px solid $ink; }
QLineEdit:focus, QDoubleSpinBox:focus, QSpinBox:focus, QComboBox:focus { border-color: $ink; }
QLineEdit#value { border: 1px solid transparent; background: transparent; font-weight: bold; }
QLineEdit#value:hover, QLineEdit#value:focus { border-color: $hairline; background: $card; }
QLineEdit#range { border: 1px solid transparent; background: transparent; color: $soft; padding: 0; }
QLineEdit#range:hover, QLineEdit#range:focus { border-color: $hairline; }
QMenu { background: $card; border: 1px solid $hairline; }
QMenu::item { padding: 4px 24px 4px 12px; }
QMenu::item:selected { background: $ink; color: $card; }
QMenuBar { background: $ground; }
QMenuBar::item:selected { background: $hairline; }
QToolTip { background: $card; color: $ink; border: 1px solid $hairline; padding: 4px; }
QScrollArea { border: 0; }
QScrollBar:vertical { width: 8px; background: transparent; }
QScrollBar:horizontal { height: 8px; background: transparent; }
QScrollBar::handle { background: $hairline; border-radius: 4px; min-height: 24px; min-width: 24px; }
QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }
QTableView { background: $card; border: 1px solid $hairline; border-radius: 6px; gridline-color: $card; }
QTableView::item { padding: 0 4px; }
QTableView::item:selected { background: $hairline; color: $ink; }
QTreeWidget { background: $card; border: 1px solid $hairline; border-radius: 6px; }
QTreeWidget::item { padding: 3px 8px; }
QTreeWidget::item:selected { background: $hairline; color: $ink; }
QHeaderView::section { background: $card; color: $soft; border: 0; padding: 2px 7px; }
QProgressBar { border: 1px solid $hairline; border-radius: 4px; background: $card; height: 8px; }
QProgressBar::chunk { background: $simulated; border-radius: 4px; }
""")
