"""Arguments of outcomes, a file each; importing this package registers them, in the order in which they are typed."""

from yapa.case.arguments import camera as camera
from yapa.case.arguments import crossing as crossing
from yapa.case.arguments import formula as formula
from yapa.case.arguments import index as index
from yapa.case.arguments import partner as partner
from yapa.case.arguments import point as point
from yapa.case.arguments import region as region
from yapa.case.arguments import sequence as sequence
from yapa.case.arguments import side as side
from yapa.case.arguments import span as span
from yapa.case.arguments import time as time
from yapa.case.arguments import waypoints as waypoints
from yapa.case.arguments.registry import ARGUMENTS, Argument, argument

__all__ = ["ARGUMENTS", "Argument", "argument"]
