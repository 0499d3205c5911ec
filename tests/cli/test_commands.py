"""The group of commands: each in its own file, imported when it is asked for; old spellings of options."""

from __future__ import annotations

import subprocess
import sys

import pytest
from click.testing import CliRunner

from yapa.cli import cli
from yapa.cli.commands import command_of, names
from yapa.demo import DATA

DROP = str(DATA / "orange-drop.yapa")


@pytest.mark.parametrize("name", names())
def test_a_file_of_a_command_holds_it_and_help_tells_it(name):
    command = command_of(name)
    assert command.name == name
    assert command.help
    assert name in CliRunner().invoke(cli, ["--help"]).output


def test_a_command_imports_no_other():
    code = ("import sys; from yapa.cli import main; sys.argv = ['yapa', 'profiles']; main(); "
            "print(sorted(m for m in sys.modules if m.startswith('yapa.cli.commands.')))")
    said = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout
    assert said.splitlines()[-1] == "['yapa.cli.commands.profiles']"


@pytest.mark.parametrize("option", ["--balance", "--book"])
def test_the_balance_of_energy_is_told_by_its_new_and_its_old_name(option):
    plain, balanced = (CliRunner().invoke(cli, ["measure", DROP, *more]).output for more in ([], [option]))
    assert "energy" in balanced
    assert len(balanced) > len(plain) + 200


@pytest.mark.parametrize("option", ["--pick", "--take"])
def test_a_solution_is_picked_by_its_new_and_its_old_name(option, tmp_path):
    said = CliRunner().invoke(cli, ["solve", str(DATA / "orange-wanted.yapa"), "--save", str(tmp_path / "x.yapa"), option, "99"])
    assert "--pick" in str(said.exception)
    assert "from 1 to" in str(said.exception)


@pytest.mark.parametrize("option", ["--fix", "--mend"])
def test_a_mend_is_asked_for_by_its_new_and_its_old_name(option):
    said = CliRunner().invoke(cli, ["check", DROP, option, "nothing: here"])
    assert "--fix" in str(said.exception)
