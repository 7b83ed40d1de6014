"""What cannot be read as a quantity.

QuantityError
└── AmbiguousError    it could be read in two ways
"""


class QuantityError(ValueError):
    """A typed text is no quantity of the kind asked for; the message says found, expected and how to fix."""


class AmbiguousError(QuantityError):
    """A typed text may mean two things: ``values`` in SI, ``texts`` what to type for each, if known.

    ``asks`` the question in short; ``lead`` what stands before a text where it is offered as an answer.
    """

    def __init__(
        self, sentence: str, values: tuple[float, ...], texts: tuple[str, ...] = (), asks: str = "Which unit?",
        lead: str = "It says ",
    ) -> None:  # fmt: skip
        super().__init__(sentence)
        self.values, self.texts, self.asks, self.lead = values, texts, asks, lead
