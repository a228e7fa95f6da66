"""Run the rules over a measured take, and fill the columns that single criteria ask for."""

from ear.criteria.table import CRITERIA, FREE_RULES, RULES
from ear.findings.context import Context
from ear.findings.finding import Finding


def listen(context: Context) -> tuple[Finding, ...]:
    """Return everything that the rules find, whatever it costs, in the order of the rules."""
    rules = RULES if context.free is None else FREE_RULES
    return tuple(finding for rule in rules for finding in rule(context))


def own_columns(context: Context) -> dict[str, tuple[float | None, ...]]:
    """Return the columns of single criteria that have a figure for any note."""
    columns = {
        name: tuple(column(context))
        for kind in CRITERIA.values()
        if kind.serves(context.part.instrument)
        for name, column in kind.columns.items()
    }
    return {name: column for name, column in columns.items() if any(figure is not None for figure in column)}
