"""A motion: samples, contacts and trajectories, of a simulation or of a measured track."""

from yapa.motion.arrays import Array, Later, rising
from yapa.motion.contacts import Contact, ContactInterval, SlipState
from yapa.motion.energy import Energy
from yapa.motion.info import BodyInfo, Remark, Severity, ShapeInfo
from yapa.motion.motion import Motion
from yapa.motion.trajectory import Trajectory

__all__ = ["Array", "BodyInfo", "Contact", "ContactInterval", "Energy", "Later", "Motion", "Remark", "Severity", "ShapeInfo",
           "SlipState", "Trajectory", "rising"]
