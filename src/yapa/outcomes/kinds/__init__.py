"""Every kind of outcome, a file each; importing this package registers them. Tables show them in this order."""

from yapa.outcomes.kinds import bounce as bounce
from yapa.outcomes.kinds import rest as rest
from yapa.outcomes.kinds import travel as travel
from yapa.outcomes.kinds import contact as contact
from yapa.outcomes.kinds import slip_durations as slip_durations
from yapa.outcomes.kinds import closest_approach as closest_approach
from yapa.outcomes.kinds import pose as pose
from yapa.outcomes.kinds import region as region
from yapa.outcomes.kinds import overlap as overlap
from yapa.outcomes.kinds import energy as energy
from yapa.outcomes.kinds import loss_share as loss_share
from yapa.outcomes.kinds import order as order
from yapa.outcomes.kinds import time_until as time_until
from yapa.outcomes.kinds import whole_body as whole_body
from yapa.outcomes.kinds import formula as formula
