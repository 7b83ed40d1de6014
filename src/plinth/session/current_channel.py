"""The current channel, by the key that it keeps whatever it is called."""

from plinth.session.core import Core


class CurrentChannel:
    """A channel of the current build; the first where it is gone."""

    def __init__(self, session: Core) -> None:
        self._session = session
        self.take(session.build.channels[0])

    def take(self, name: str) -> None:
        """Go to another one."""
        self._key = self._session.build.key_of(name)

    @property
    def name(self) -> str:
        """As it is called today."""
        build = self._session.build
        name = build.channel_of(self._key)
        return name if name in build.channels else build.channels[0]
