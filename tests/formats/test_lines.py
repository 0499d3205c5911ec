"""What a JSON parser refuses without a place is refused with one."""

from __future__ import annotations

import pytest

from tests.hard.mutants import mutant
from yapa.errors import InputError
from yapa.formats.case_json import parse_case

HEAD = '{"format": "yapa", "version": 2, "bodies": {},\n'


@pytest.mark.parametrize(("rest", "where", "found"), [
    ('"notes": ' + "[" * 250 + "]" * 250 + "}", "line 2, column 109", "brackets inside each other"),
    ('\n"notes": "a\\ud800b"}', "line 3, column 12", "half of a surrogate pair"),
    ('"notes": "a\\udc00b"}', "line 2, column 12", "half of a surrogate pair"),
    ('"seed": ' + "1" * 5000 + "}", "line 2, column 9", "a number of 5,000 digits"),
])
def test_the_line_of_what_no_case_holds_is_named(rest, where, found):
    with pytest.raises(InputError) as refused:
        parse_case(HEAD + rest, "case")
    assert where in str(refused.value)
    assert found in str(refused.value)


@pytest.mark.parametrize("text", ['"\\ud83d\\ude00"', '"\\\\ud800"', '"[[[[{{{{"', '"' + "7" * 500 + '"'])
def test_what_only_looks_like_it_is_read(text):
    assert parse_case(HEAD + f'"notes": {text}}}', "case").notes


def test_every_refusal_of_a_mutated_case_says_where():
    places = []
    for seed in range(300):
        try:
            parse_case(mutant(seed), "mutant")
        except InputError as error:
            places += [(seed, str(error)) for issue in error.problems if issue.where in ("", "the file")]
    assert places == []
