"""Linear programmes against what a hand works out."""

import pytest

from ombix.core.linear_programme import LinearProgramme


def triangle() -> LinearProgramme:
    """Three variables, of each two no more than 1 together: relaxed a half each, of whole ones the dearest alone."""
    programme = LinearProgramme([-3.0, -2.0, -2.0])
    for pair in ((0, 1), (0, 2), (1, 2)):
        programme.limit(pair, most=1.0)
    return programme


def test_relaxed_and_whole() -> None:
    programme = triangle()
    relaxed = programme.solved(range(3), 0, 0.0, 10.0)
    assert relaxed is not None
    assert list(relaxed.values) == [0.5, 0.5, 0.5]
    assert relaxed.bound == -3.5
    assert sum(relaxed.marginals) == -3.5
    assert [programme.reduced(number, relaxed.marginals) for number in range(3)] == [0.0, 0.0, 0.0]
    whole = programme.solved(range(3), 3, 0.0, 10.0)
    assert whole is not None
    assert (list(whole.values), whole.bound, list(whole.marginals)) == ([1.0, 0.0, 0.0], -3.0, [])


def test_only_some_variables_and_only_some_of_them_whole() -> None:
    programme = triangle()
    without = programme.solved([1, 2], 2, 0.0, 10.0)
    assert without is not None
    assert (sum(without.values), without.bound) == (1.0, -2.0)
    programme.limit([1], [2], least=0.25)
    some = programme.solved([0, 1, 2], 1, 0.0, 10.0)
    assert some is not None
    assert list(some.values) == [0.0, 1.0, 0.0]
    assert programme.solved([0, 2], 2, 0.0, 10.0) is None


def test_where_nothing_fits(capfd: pytest.CaptureFixture[str]) -> None:
    programme = triangle()
    programme.limit([0, 1], least=2.0)
    assert programme.solved(range(3), 0, 0.0, 10.0) is None
    assert programme.solved(range(3), 3, 0.0, 10.0) is None
    assert capfd.readouterr() == ("", "")
