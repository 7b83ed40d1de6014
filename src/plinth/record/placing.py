"""Whether the thing that a record is about is still a thing of the build."""

from plinth.builds.build import Build
from plinth.record.subject import SUPPLY, WHOLE, Kind, read_subject


def out_of_place(subject: str, build: Build) -> str:
    """Why a record stands beside the build and no longer in it; empty where its channel and its load are there."""
    about = read_subject(subject)
    if about.kind in (Kind.OTHER, Kind.INSPECT, Kind.PART) or about.channel in (WHOLE, SUPPLY):
        return ""
    if about.channel not in (build.channel_keys or build.channels):
        return f"{about.channel} is no channel of this build now"
    loads = {load.identity for load in (*build.loads, build.load)}
    if about.kind in (Kind.CLIP, Kind.CLIP_1, Kind.CLIP_10, Kind.CLIP_DRAW) and about.what not in loads:
        return f"{about.what} is none of the loads now"
    return ""
