"""Further answers that count as the model's: what a criterion is about, and the lab with another answer there."""

from dataclasses import replace

from ..sheet import AnyItem, Block, Configuration, Sheet, read_sheet
from .keys import KEYS, counted_by
from .model import Criterion, Lab


def answers_of(criterion: Criterion, model: Configuration) -> list[AnyItem]:
    """Return the statements of a device's model answer that a criterion is about; none for what is run or gone."""
    own = KEYS[criterion.key].answers
    if own is not None:
        return own(criterion, model)
    found = ((i, counted_by(criterion.device, i, model)) for i in model.items)
    return [i for i, by in found if by is not None and by.id == criterion.id]


def with_answer(lab: Lab, criterion: Criterion, text: str) -> tuple[Lab | None, str]:
    """Return the lab with the lines of ``text`` in the place of what a criterion is about; or None, and why not.

    The lines stand in the block of what they replace, which need not be named.
    """
    model = lab.model.get(criterion.device)
    there = answers_of(criterion, model) if model is not None else []
    if model is None or not there:
        return (
            None,
            f"There is no statement behind a criterion about {criterion.key} that another could replace.",
        )
    block = there[0].block
    sheet = read_sheet(_in_block(text, block))
    if sheet.errors:
        return None, sheet.errors[0].message
    added = [i for i in sheet.configuration.items if i.statement.SPEC.forms]
    changed = model.changed(there, [replace(i, where=None) for i in added])
    if not added or not answers_of(criterion, changed):
        return None, f"{text.strip()[:60]} is no other answer to {criterion.id}."
    answer = Sheet(changed, (), 0, "")
    return replace(lab, answer={**lab.answer, criterion.device: answer}), ""


def _in_block(text: str, block: Block | None) -> str:
    if block is None:
        return text
    return "\n".join([block.header(), *(f"  {line.strip()}" for line in text.splitlines())])
