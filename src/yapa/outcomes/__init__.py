"""Numbers read off a motion, simulated or measured alike."""

from yapa.outcomes.asked import Asked
from yapa.outcomes.bounces import bounces, rebounds
from yapa.outcomes.catalogue import CATALOGUE, SHORT, measure, read, read_target
from yapa.outcomes.value import OutcomeValue
from yapa.tracking.reconstruct import Support, measured_motion
from yapa.tracking.track_data import TrackData, track_data

__all__ = [
    "CATALOGUE", "SHORT", "Asked", "OutcomeValue", "Support", "TrackData", "bounces", "measure", "measured_motion", "read",
    "read_target", "rebounds", "track_data",
]
