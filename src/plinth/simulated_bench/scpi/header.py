"""Patterns of headers: ``SOURce:VOLTage[:LEVel]`` in all the forms that it may be sent in."""

import itertools
import re
from functools import lru_cache

_NODE = re.compile(r"(\[?):?([A-Za-z]+)(#?)\]?")


@lru_cache(maxsize=512)
def forms_of(pattern: str) -> frozenset[str]:
    """Every form of a pattern in capitals: long or short nodes, with or without those in brackets.

    ``#`` behind a node stands for a number or none; it is kept in the form, so that ``matched`` can tell it.
    """
    nodes: list[list[str]] = []
    for optional, word, numbered in _NODE.findall(pattern):
        short = "".join(letter for letter in word if letter.isupper())
        forms = [form + numbered for form in dict.fromkeys((word.upper(), short))]
        nodes.append([*forms, ""] if optional else forms)
    return frozenset(":".join(part for part in parts if part) for parts in itertools.product(*nodes))


def matched(header: str, pattern: str) -> tuple[int, ...] | None:
    """The numbers of the numbered nodes (1 where none is said) if ``header`` is of the pattern, else None."""
    for form in forms_of(pattern):
        expected, sent = form.split(":"), header.split(":")
        if len(expected) != len(sent):
            continue
        numbers: list[int] = []
        for node, own in zip(expected, sent, strict=True):
            if node.endswith("#"):
                match = re.fullmatch(re.escape(node[:-1]) + r"(\d*)", own)
                if match is None:
                    break
                numbers.append(int(match.group(1) or 1))
            elif node != own and own != node + "1":
                break
        else:
            return tuple(numbers)
    return None
