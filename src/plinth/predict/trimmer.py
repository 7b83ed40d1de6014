"""A build with the trimmers of its bias turned to a share of the quiescent current."""

from plinth.builds.build import Build


def with_trimmer_at(build: Build, share: float) -> Build:
    """The build drawing ``share`` (0 to 1) of its quiescent current at rest; itself where nothing is trimmed.

    The drivers draw what they draw, wherever the trimmer stands.
    """
    module = build.module
    if module.bias is None:
        return build
    return build.model_copy(
        update={"module": module.model_copy(update={"i_quiescent_stated_a": share * module.i_quiescent_a})}
    )  # fmt: skip
