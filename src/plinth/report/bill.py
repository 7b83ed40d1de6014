"""A bill as an HTML page or a CSV table."""

import datetime as dt

from plinth import __version__
from plinth.builds.build import Build
from plinth.report.csv_table import csv_text
from plinth.shelf.bill import HEADS, Bill, calendar, summary, table


def bill_html(build: Build, bill: Bill, made_at: dt.datetime) -> str:
    """One page with everything in it; nothing is fetched."""
    # Late: a window that writes no bill need not wait for it.
    import jinja2

    environment = jinja2.Environment(
        loader=jinja2.PackageLoader("plinth.report"), autoescape=True, undefined=jinja2.StrictUndefined,
        trim_blocks=True, lstrip_blocks=True,
    )  # fmt: skip
    return environment.get_template("bill.html").render(
        build=build, bill=bill, heads=HEADS, rows=table(bill), summary=summary(bill),
        doable=[one.words(made_at.date()) for one in calendar(bill)], version=__version__,
        made_at=f"{made_at.astimezone():%Y-%m-%d %H:%M}",
    )  # fmt: skip


def bill_csv(bill: Bill) -> str:
    """One line a part."""
    return csv_text([HEADS, *table(bill)])
