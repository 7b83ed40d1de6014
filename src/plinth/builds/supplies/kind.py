"""What every kind of supply answers for itself; a new kind is a module beside this one."""

import abc
from typing import Any, ClassVar

from plinth.builds.quantities import Model
from plinth.builds.station import Station


class SupplyKind(Model):
    """A supply by its kind, which says of itself what stands where in the power path and what makes its rails.

    ``source_slot`` the field of the part that makes the rails, ``source_name`` its kind; ``stations`` which are other
    ones than with a transformer and its rectifier; ``from_the_wall`` whether it hangs on the mains; ``set_by_hand``
    whether its volts are set at the bench; ``always_gives`` whether nothing ahead of its rails could refuse what they
    ask. ``drawn_from`` what gives the power, in words, ``drawn_figure`` how much that is, read as ``watts_label``;
    ``runs`` the word before its source (``on 36 V``); ``made_for_by`` what says for which mains it is made;
    ``cautions`` what can hurt in it. ``comes_with_source``: its source part alone, put in another one's place, makes it
    a whole supply.
    """

    source_slot: ClassVar[str]
    source_name: ClassVar[str]
    stations: ClassVar[tuple[Station, ...]] = ()
    from_the_wall: ClassVar[bool] = False
    set_by_hand: ClassVar[bool] = False
    always_gives: ClassVar[bool] = False
    drawn_from: ClassVar[str] = "the wall"
    drawn_figure: ClassVar[str] = "mains_power_w"
    watts_label: ClassVar[str] = "watts from the supply"
    runs: ClassVar[str] = "on"
    made_for_by: ClassVar[str] = ""
    reservoir_name: ClassVar[str] = "Output capacitors"
    cautions: ClassVar[tuple[str, ...]] = ()
    comes_with_source: ClassVar[bool] = False

    @property
    @abc.abstractmethod
    def single_rail(self) -> bool:
        """Whether it gives one rail only."""

    @property
    @abc.abstractmethod
    def rough_rail_v(self) -> float:
        """About where a rail stands, by the stated volts alone; V."""

    @property
    @abc.abstractmethod
    def rated_words(self) -> tuple[str, str]:
        """What its source is rated for, in few words: volts, and power or current."""

    @property
    def source_part(self) -> Any:
        """The part that makes the rails."""
        return getattr(self, self.source_slot)

    @property
    def sign(self) -> str:
        """What stands before the volts of its rails: ``±``, or nothing for a single one."""
        return "" if self.single_rail else "±"

    @property
    def lockout(self) -> tuple[float, str] | None:
        """The lowest rail at which its source shuts down, V, and the source's name; None where nobody states one."""
        v = getattr(self.source_part, "v_ov_lockout_v", None)
        return None if v is None else (v, self.source_part.name)

    @property
    def made_for_v_rms(self) -> float | None:
        """The mains that its primary is wound for, or its jumper is set for; V. None without either, or not stated."""
        return None

    @property
    def follows_mains(self) -> bool:
        """Whether its rails go up and down with the mains."""
        return False

    @property
    def limit_a(self) -> float | None:
        """Where it limits the current of a rail, A; None where it does not."""
        return getattr(self.source_part, "i_limit_a", None)

    @property
    def at_its_limit(self) -> str:
        """What it does at its limit of current."""
        return "gives no more"

    @property
    def continuous_w(self) -> float | None:
        """What it gives for good, W; None where it is not rated so."""
        return getattr(self.source_part, "p_continuous_w", None)

    @property
    def box_words(self) -> tuple[str, ...]:
        """What is written on it in a drawing."""
        return self.source_part.name, self.rated_words[0]

    def words_at(self, _battery_v: float) -> str:
        """What a build runs from where that is not the mains, with the battery at ``battery_v``."""
        return "its supply"

    def instead_of_wall(self, _battery_v: float) -> tuple[str, str, str] | None:
        """Name, volts and what else stands in the wall's place, with the battery at ``battery_v``; None: the wall."""
        return None

    @property
    def one_per_channel(self) -> bool:
        """Whether each channel has a whole one of its own (dual mono)."""
        return False

    @classmethod
    def key(cls) -> str:
        """What files call this kind."""
        return str(cls.model_fields["kind"].default)

    @classmethod
    def source_type(cls) -> Any:
        """Which parts make its rails."""
        return cls.model_fields[cls.source_slot].annotation

    @classmethod
    def document_with(cls, source: dict[str, Any], before: dict[str, Any]) -> dict[str, Any]:
        """The document of such a supply with that source, in the place of the supply ``before``.

        Of its own kind all else stays; of another one the reservoir does.
        """
        kept = before if before["kind"] == cls.key() else {"kind": cls.key(), "reservoir": before["reservoir"]}
        return kept | {cls.source_slot: source}


class WithoutTransformer(SupplyKind):
    """A supply that has none of the parts around a transformer."""

    transformer: ClassVar[None] = None
    rectifier: ClassVar[None] = None
    reservoir_minus: ClassVar[None] = None
    smoothing: ClassVar[None] = None
    input_supply: ClassVar[None] = None


class WithoutConverter(SupplyKind):
    """A supply without a converter."""

    converter: ClassVar[None] = None


class WithoutBattery(WithoutConverter):
    """A supply that no battery feeds, nor one with a converter."""

    battery: ClassVar[None] = None
