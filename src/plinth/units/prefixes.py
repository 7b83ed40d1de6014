"""The prefixes of units: the one table that reading and writing rest on (SI Brochure, 9th edition, table 7)."""

# As they are typed: capital K for kilo is common, and both signs for micro are on keyboards.
PREFIXES = {
    "f": 1e-15, "p": 1e-12, "n": 1e-9, "u": 1e-6, "µ": 1e-6, "μ": 1e-6, "m": 1e-3, "": 1.0,
    "k": 1e3, "K": 1e3, "M": 1e6, "G": 1e9, "T": 1e12, "P": 1e15,
}  # fmt: skip


def table_of(signs: str) -> dict[str, float]:
    """The factors of some signs, and 1 for none."""
    return {"": 1.0, **{sign: PREFIXES[sign] for sign in signs}}
