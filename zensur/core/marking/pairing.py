"""Loopbacks may have any name: they are paired with the model answer's by contents, then name, then order."""

from collections.abc import Iterator

from ..sheet import Block, Configuration, OnPort


def with_model_names(learner: Configuration, model: Configuration) -> Configuration:
    """Give the learner's loopbacks the names that their counterparts in the model answer have."""
    theirs, ours = learner.blocks("loopback"), model.blocks("loopback")
    if not theirs or not ours:
        return learner
    pairs: dict[Block, Block] = {}
    for mine, counterpart in _best_first(learner, model):
        if mine not in pairs and counterpart not in pairs.values():
            pairs[mine] = counterpart
    names = {mine: counterpart.name for mine, counterpart in pairs.items() if mine != counterpart}
    taken = {b.name.lower() for b in ours}
    for spare in theirs:  # a loopback of no counterpart gives way where it bears the name of one
        if spare not in pairs and spare.name.lower() in taken:
            names[spare] = _free(spare.name, taken | {b.name.lower() for b in theirs})
    return learner.renamed(names) if names else learner


def _best_first(learner: Configuration, model: Configuration) -> Iterator[tuple[Block, Block]]:
    ranked = []
    for i, mine in enumerate(learner.blocks("loopback")):
        own = {a.statement.interface.ip for a in learner.all(OnPort, mine)}
        for j, other in enumerate(model.blocks("loopback")):
            common = len(own & {a.statement.interface.ip for a in model.all(OnPort, other)})
            ranked.append(((-common, mine != other, abs(i - j), i, j), mine, other))
    yield from ((mine, other) for _, mine, other in sorted(ranked, key=lambda r: r[0]))


def _free(name: str, taken: set[str]) -> str:
    return next(f"{name}-{n}" for n in range(2, 1000) if f"{name}-{n}".lower() not in taken)
