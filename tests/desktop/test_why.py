"""Findings and outcomes in the window."""

from PySide6.QtCore import Qt

from yapa.desktop.dialogs.target import TargetDialog


def card_of(dialog, key):
    return next(card for card in dialog.cards if card.finding.key == key)


def test_findings_are_listed_mended_and_put_away_and_every_step_can_be_undone(bench, qtbot):
    w = bench("orange-drop")
    session = w.session
    weightless = session.case.bodies["orange"].model_copy(update={"gravity_multiplier": 0.0})
    session.edit(session.case.model_copy(update={"bodies": {**session.case.bodies, "orange": weightless}}), "float")
    w.run_command("What may be wrong…")
    qtbot.waitUntil(lambda: any(c.finding.kind == "weightless" for c in w.dialogs["findings"].cards), timeout=20000)
    qtbot.mouseClick(card_of(w.dialogs["findings"], "weightless: orange").mend, Qt.MouseButton.LeftButton)
    assert session.case.bodies["orange"].gravity_multiplier == 1.0
    qtbot.waitUntil(lambda: not any(c.finding.kind == "weightless" for c in w.dialogs["findings"].cards), timeout=20000)
    session.undo()
    qtbot.waitUntil(lambda: any(c.finding.kind == "weightless" for c in w.dialogs["findings"].cards), timeout=20000)
    qtbot.mouseClick(card_of(w.dialogs["findings"], "weightless: orange").away, Qt.MouseButton.LeftButton)
    assert session.case.ignored_findings == ("weightless: orange",)
    qtbot.waitUntil(lambda: not any(c.finding.kind == "weightless" for c in w.dialogs["findings"].cards), timeout=20000)
    qtbot.waitUntil(w.dialogs["findings"].back.isVisible, timeout=5000)
    qtbot.mouseClick(w.dialogs["findings"].back, Qt.MouseButton.LeftButton)
    assert session.case.ignored_findings == ()
    w.dialogs["findings"].close()


def test_outcomes_stand_simulated_beside_measured_and_follow_an_edit(bench, qtbot):
    w = bench("orange-drop")
    w.run_command("Outcomes…")
    table = w.dialogs["outcomes"].table
    qtbot.waitUntil(lambda: table.rowCount() > 15, timeout=10000)
    rows = {table.item(k, 0).text(): (table.item(k, 1).text(), table.item(k, 2).text()) for k in range(table.rowCount())}
    assert rows["apex 1"][0].endswith(" m")
    assert "±" in rows["apex 1"][1]
    for column, is_number in enumerate((False, True, True, False)):
        for item in (table.horizontalHeaderItem(column), table.item(0, column)):
            assert bool(item.textAlignment() & Qt.AlignmentFlag.AlignRight) == is_number
    before = rows["apex 1"][0]
    assert w.session.set_number("pairs.rind+pad.restitution", 0.5)
    qtbot.waitUntil(lambda: {table.item(k, 0).text(): table.item(k, 1).text() for k in range(table.rowCount())}["apex 1"] != before,
                    timeout=10000)
    w.dialogs["outcomes"].close()


def test_a_target_may_be_a_range_a_bound_or_that_something_never_happens(bench, qtbot):
    w = bench("lemons-nudge")
    dialog = TargetDialog(w, ["lemon a", "lemon b"])
    qtbot.addWidget(dialog)
    dialog.outcome.setCurrentText("hit")
    dialog.arguments.setText("with lemon b")
    dialog.condition.setCurrentText("never")
    assert not dialog.value.isEnabled()
    dialog.take()
    assert dialog.target.condition == "never"
    assert dialog.target.partner == "lemon b"
    dialog.outcome.setCurrentText("rest time")
    dialog.condition.setCurrentText("within")
    dialog.value.setText("1.5")
    dialog.upper.setText("2")
    assert not dialog.arguments.isEnabled()
    dialog.take()
    assert (dialog.target.value, dialog.target.upper) == (1.5, 2.0)
    again = TargetDialog(w, ["lemon a", "lemon b"], dialog.target)
    qtbot.addWidget(again)
    again.take()
    assert again.target == dialog.target


def test_a_target_may_be_arithmetic_or_of_a_group_and_stays_so(bench, qtbot):
    w = bench("lemons-nudge")
    dialog = TargetDialog(w, ["lemon a", "lemon b", "all of queue"])
    qtbot.addWidget(dialog)
    dialog.outcome.setCurrentText("formula")
    assert dialog.arguments.placeholderText() == "apex 2 / apex 1"
    assert not dialog.form.isRowVisible(dialog.body)
    dialog.arguments.setText("lemon a travel - lemon b travel")
    dialog.condition.setCurrentText("at least")
    dialog.value.setText("0.1")
    dialog.take()
    assert dialog.target.label == "lemon a travel - lemon b travel"
    again = TargetDialog(w, ["lemon a", "lemon b"], dialog.target)
    qtbot.addWidget(again)
    again.take()
    assert again.target == dialog.target
    dialog.outcome.setCurrentText("travel")
    dialog.body.setCurrentText("all of queue")
    dialog.take()
    assert (dialog.target.each, dialog.target.body) == ("all", "queue")
    group = dialog.target.model_copy(update={"each": "at least 2"})
    kept = TargetDialog(w, ["lemon a", "lemon b"], group)
    qtbot.addWidget(kept)
    kept.take()
    assert kept.target == group


def test_the_menu_and_keys_open_both(bench, qtbot):
    w = bench("orange-drop")
    w.bench.stage.setFocus()
    qtbot.keyClick(w.bench.stage, Qt.Key.Key_Y)
    qtbot.waitUntil(lambda: w.dialogs["findings"].isVisible(), timeout=5000)
    w.dialogs["findings"].close()
    w.activateWindow()
    w.bench.stage.setFocus()
    qtbot.keyClick(w.bench.stage, Qt.Key.Key_O)
    qtbot.waitUntil(lambda: w.dialogs["outcomes"].isVisible(), timeout=5000)
    w.dialogs["outcomes"].close()
