"""Candidates for tests: what fits a wheel is laid out once for all that ask for the same wheel, as the pages do."""

from functools import lru_cache

from clavis.core.evaluation.evaluate import Evaluation, SetupName
from clavis.core.job.document import BESIDE_THE_PARTS, BESIDE_THE_SETUP, Job
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.mounts import End
from clavis.core.selection.candidates import Choice, Prepared, chosen, prepare
from tests.bikes import CATALOGUE, mounting

NOT_LAID_OUT = dict.fromkeys(BESIDE_THE_PARTS | BESIDE_THE_SETUP - {"keeps"}, True) | {"proposal": {"front", "rear"}}


class Asked:
    """One wheel of a job and a catalogue, the same to whoever asks for the same parts."""

    def __init__(self, job: Job, end: End, catalogue: Catalogue) -> None:
        self.job, self.end, self.catalogue = job, end, catalogue
        self.key = job.model_dump_json(exclude=NOT_LAID_OUT), end

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Asked) and self.key == other.key and self.catalogue is other.catalogue

    def __hash__(self) -> int:
        return hash(self.key)


@lru_cache(maxsize=8)
def laid_out(asked: Asked) -> Prepared:
    return prepare(asked.job, mounting(asked.job, asked.end, asked.catalogue))


def choice_of(job: Job, found: Evaluation, end: End = End.FRONT, catalogue: Catalogue = CATALOGUE) -> Choice:
    """Every feasible candidate of a wheel over the job's ride."""
    setup = found.setups[SetupName.PROPOSED]
    assert found.situation is not None
    assert setup.demand is not None
    assert setup.load is not None
    prepared = laid_out(Asked(job, end, catalogue))
    return chosen(prepared, found.situation, setup.demand, setup.load, job.wishes.wants)
