"""Numbers read from a motion, simulated or measured alike."""

from yapa.case.outcome_specs import OUTCOME_SPECS, spec_of
from yapa.outcomes import kinds as kinds
from yapa.outcomes.kinds.bounce import bounces, rebounds
from yapa.outcomes.query import OutcomeQuery
from yapa.outcomes.reading import measure, read, read_target
from yapa.outcomes.registry import CATALOGUE, outcome
from yapa.outcomes.value import OutcomeValue

__all__ = ["CATALOGUE", "OUTCOME_SPECS", "OutcomeQuery", "OutcomeValue", "bounces", "measure", "outcome", "read", "read_target",
           "rebounds", "spec_of"]
