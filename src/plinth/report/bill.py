"""A bill as an HTML page or a CSV table."""

import datetime as dt

from plinth.builds.build import Build
from plinth.release import VERSION
from plinth.report.csv_table import csv_text
from plinth.report.html_page import rendered
from plinth.shelf.bill import HEADS, Bill, calendar, summary, table


def bill_html(build: Build, bill: Bill, made_at: dt.datetime) -> str:
    """One page with everything in it; nothing is fetched."""
    return rendered(
        "bill.html", build=build, bill=bill, heads=HEADS, rows=table(bill), summary=summary(bill),
        doable=[due.words(made_at.date()) for due in calendar(bill)], version=VERSION,
        made_at=f"{made_at.astimezone():%Y-%m-%d %H:%M}",
    )  # fmt: skip


def bill_csv(bill: Bill) -> str:
    """One line a part."""
    return csv_text([HEADS, *table(bill)])
