"""Labs as they are worked with: read, compiled and checked, each version of each once."""

from collections.abc import Mapping
from functools import lru_cache

from ..core.lab import Lab, ReadLab, read_lab
from ..core.marking.checking.lab_check import LabCheck, check_text
from ..core.marking.marker import Marker
from ..core.sim import Model
from ..store import LabVersion
from .workers import Workers

MOST_LABS = 64
Drawn = tuple[tuple[str, int], ...]
"""The numbers of a learner for a lab's variables, by name."""


class CompiledLabs:
    """Labs and their stages, with models and markers. What is kept is shared by all threads and never changes."""

    def __init__(self, workers: Workers) -> None:
        self.workers = workers
        self._read = lru_cache(maxsize=MOST_LABS)(_read)
        self._model = lru_cache(maxsize=MOST_LABS)(self._new_model)
        self._marker = lru_cache(maxsize=MOST_LABS)(self._new_marker)
        self._check = lru_cache(maxsize=MOST_LABS)(check_text)

    def read(self, version: LabVersion) -> ReadLab:
        """Read a lab's text, the same text only once."""
        return self._read(version.text, ())

    def lab(self, version: LabVersion, stage: str = "", drawn: Mapping[str, int] | None = None) -> Lab:
        """Return a saved lab, or one of its stages: the last where it does not have that one (any more); with a
        learner's own numbers where they are drawn.

        Only texts that can be read are saved.
        """
        return self._stage(version.text, stage, key_of(drawn))

    def _stage(self, text: str, stage: str, drawn: Drawn) -> Lab:
        lab = self._read(text, drawn).lab
        assert lab is not None
        return next((s for s in lab.stages if stage and s.stage == stage), lab)

    def model(self, version: LabVersion, stage: str = "", drawn: Mapping[str, int] | None = None) -> Model:
        """Return the model of a saved lab, or of one of its stages."""
        return self._model(version.text, self.lab(version, stage, drawn).stage, key_of(drawn))

    def _new_model(self, text: str, stage: str, drawn: Drawn) -> Model:
        return Model(self._stage(text, stage, drawn))

    def marker(self, version: LabVersion, stage: str = "", drawn: Mapping[str, int] | None = None) -> Marker:
        """Return the marker of a saved lab, or of one of its stages."""
        return self._marker(version.text, self.lab(version, stage, drawn).stage, key_of(drawn))

    def _new_marker(self, text: str, stage: str, drawn: Drawn) -> Marker:
        model = self._model(text, stage, drawn)
        return Marker(model.lab, model)

    def check(self, version: LabVersion) -> LabCheck:
        """Return the lab check of a saved lab."""
        return self._check(version.text)

    def check_of(self, text: str) -> LabCheck:
        """Return the lab check of a text that is not saved, worked out in a worker: it is asked for at every pause of
        typing. Raises :class:`~zensur.work.workers.Refused`."""
        found: LabCheck = self.workers.ask(check_text, text)
        return found


def _read(text: str, drawn: Drawn) -> ReadLab:
    return read_lab(text, dict(drawn))


def key_of(drawn: Mapping[str, int] | None) -> Drawn:
    """Return a learner's numbers as what they are known by."""
    return tuple(sorted((drawn or {}).items()))
