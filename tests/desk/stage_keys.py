"""The stages of the work, by their keys."""

from plinth.desk.stages import STAGES

STAGE_KEYS = tuple(stage.key for stage in STAGES)
