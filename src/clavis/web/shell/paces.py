"""What the model expects each wheel of a job to wear: of what is fitted, or of what is proposed."""

from clavis.core.evaluation.rides import rides_of
from clavis.core.evaluation.wear import YearOfWear, year_of_wear
from clavis.core.parts.mounts import End
from clavis.web.shell.bench import Bench


def paces_of(b: Bench, *, proposed: bool = False) -> dict[End, YearOfWear]:
    """A year of all rides for each wheel; none where rider, ride or parts are not known yet."""
    setup = b.evaluation.proposed if proposed else b.evaluation.fitted
    situation = b.evaluation.situation
    if setup is None or situation is None:
        return {}
    rides = b.kept("rides of wear", lambda: rides_of(b.job, b.evaluation, b.tracks, setup), proposed)
    return {end: year_of_wear(w, rides, situation.parameters) for end, w in setup.wheels.items()}
