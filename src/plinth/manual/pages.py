"""The guide as HTML: a topic as a page, or all of it as one, the same in the window, in a browser and on paper."""

import re
from importlib import resources

from markdown_it import MarkdownIt

from plinth.manual.sections import TOPICS, Section, sections_of, topic_text

_PICTURE = re.compile(r'<img src="(?P<name>pictures/[\w-]+\.svg)"[^>]*>')
_ALONE = re.compile(r"<p>(<img [^>]*>)</p>")
STYLE = """body { font-family: "B612", sans-serif; line-height: 1.4; max-width: 46em; margin: 2em auto; }
code { font-family: inherit; background: #EAE7DF; } table { border-collapse: collapse; }
svg text { font-family: "B612", sans-serif; }
svg { max-width: 100%; border: 1px solid #D5D0C4; display: block; }
td, th { border: 1px solid #D5D0C4; padding: 2px 6px; text-align: left; vertical-align: top; }"""


def topic_html(topic: str, text: str | None = None) -> str:
    """The body of a topic, each heading with an anchor of its own; ``text`` another Markdown than the shipped one."""
    return "\n".join(
        _section_html(section) for section in sections_of(topic, topic_text(topic) if text is None else text)
    )


def _section_html(section: Section) -> str:
    body = _markdown().render(section.text).replace('.md">', '">').replace(".md#", "#")
    # A picture is no line of text: nothing stands above and below it but its own height.
    body = _ALONE.sub(r"<div>\1</div>", body)
    name = section.topic if section.level == 1 else section.anchor
    return (
        f'<a name="{name}"></a>\n<h{section.level}>{_markdown().renderInline(section.title)}</h{section.level}>\n{body}'
    )


def picture(name: str) -> str:
    """A picture of the guide as SVG (``pictures/one-period.svg``). Raises FileNotFoundError where there is none."""
    return (resources.files("plinth.manual") / name).read_text(encoding="utf-8")


def _inline(match: re.Match[str]) -> str:
    """A picture within the page itself, so that the page needs no other file."""
    return picture(match["name"]).strip()


def _markdown() -> MarkdownIt:
    return MarkdownIt("commonmark").enable("table")


def whole_html() -> str:
    """All topics as one page, with a table of contents."""
    heads = [(topic, sections_of(topic, topic_text(topic))[0].title) for topic in TOPICS]
    contents = "\n".join(f'<li><a href="#{topic}">{title}</a></li>' for topic, title in heads)
    body = _PICTURE.sub(_inline, "\n".join(topic_html(topic) for topic in TOPICS))
    return (
        '<!DOCTYPE html>\n<html lang="en"><head><meta charset="utf-8"><title>Plinth: guide</title>'
        f"<style>{STYLE}</style></head><body><h1>Plinth: guide</h1>\n<ul>\n{contents}\n</ul>\n{_within(body)}"
        "</body></html>\n"
    )


def _within(body: str) -> str:
    """Links between topics as links within one page."""
    for topic in TOPICS:
        body = body.replace(f'href="{topic}#', 'href="#').replace(f'href="{topic}"', f'href="#{topic}"')
    return body
