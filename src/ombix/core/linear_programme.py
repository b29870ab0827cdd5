"""Linear programmes whose variables are from 0 to 1, and some of them whole: built row by row, solved by HiGHS."""

from collections.abc import Iterable, Sequence
from math import inf
from typing import NamedTuple


class Optimum(NamedTuple):
    """What solves a programme: a value for each variable that was asked for, the least that any solution could cost, as far as it
    was proved, and what each row is worth (where no variable is whole; none otherwise)."""

    values: Sequence[float]
    bound: float
    marginals: Sequence[float]


class LinearProgramme:
    """The least sum of variables times their costs, within limits on sums of them."""

    def __init__(self, costs: Iterable[float]) -> None:
        self._costs = list(costs)
        self._limits: list[tuple[float, float]] = []
        self._columns: list[list[tuple[int, float]]] = [[] for _ in self._costs]

    def limit(
        self, members: Iterable[int], less: Iterable[int] = (), *, least: float = -inf, most: float = inf
    ) -> None:
        """The sum of some variables, by their numbers, less that of others is from `least` to `most`."""
        row = len(self._limits)
        for factor, variables in ((1.0, members), (-1.0, less)):
            for number in variables:
                self._columns[number].append((row, factor))
        self._limits.append((least, most))

    def reduced(self, number: int, marginals: Sequence[float]) -> float:
        """What a variable costs above what its rows are worth (the reduced cost)."""
        return self._costs[number] - sum(marginals[row] * factor for row, factor in self._columns[number])

    def solved(self, numbers: Sequence[int], whole: int, gap: float, seconds: float) -> Optimum | None:
        """The least with these variables, the first `whole` of them 0 or 1, and all others 0: to a gap, as a share of what it
        costs, or the best of so many seconds. None where there is none, or none was found."""
        import highspy  # takes 0.3 s

        columns = [self._columns[number] for number in numbers]
        starts = [0]
        for column in columns:
            starts.append(starts[-1] + len(column))
        model = highspy.HighsLp()
        matrix = model.a_matrix_
        matrix.num_col_ = model.num_col_ = len(numbers)
        matrix.num_row_ = model.num_row_ = len(self._limits)
        matrix.format_ = highspy.MatrixFormat.kColwise
        matrix.start_ = starts
        matrix.index_ = [row for column in columns for row, _factor in column]
        matrix.value_ = [factor for column in columns for _row, factor in column]
        model.col_cost_ = [self._costs[number] for number in numbers]
        model.col_lower_, model.col_upper_ = [0.0] * len(numbers), [1.0] * len(numbers)
        model.row_lower_, model.row_upper_ = map(list, zip(*self._limits, strict=True))
        if whole:
            kind = highspy.HighsVarType
            model.integrality_ = [kind.kInteger] * whole + [kind.kContinuous] * (len(numbers) - whole)
        solver = highspy.Highs()  # type: ignore[no-untyped-call]
        options = {"output_flag": False, "threads": 1, "mip_rel_gap": gap, "time_limit": seconds}
        for name, value in options.items():
            solver.setOptionValue(name, value)
        solver.passModel(model)
        solver.run()
        found, told = solver.getSolution(), solver.getInfo()
        if told.primal_solution_status != highspy.SolutionStatus.kSolutionStatusFeasible:
            return None
        bound = told.mip_dual_bound if whole else told.objective_function_value
        return Optimum(list(found.col_value), bound, () if whole else list(found.row_dual))
