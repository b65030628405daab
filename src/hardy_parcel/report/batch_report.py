"""What came of a batch: each parcel with its receipt, as a page that prints, as a table, and for other programs."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from datetime import datetime

from markupsafe import Markup
from pydantic import BaseModel

from ..core.batch.batch_progress import PackState
from ..core.errors import NotFound
from ..core.parcel.receipt import Receipt
from ..core.parcel.slip_text import checksum_lines
from ..planned.packing_batches import pack_state
from ..store import batches, results
from ..store.database import Database
from .writing import page_environment, page_policy, safe_cell, template_text

TEMPLATE = "batch.html"
COLUMNS = (
    "video",
    "destination",
    "state",
    "folder",
    "file",
    "size_bytes",
    "encode_s",
    "sha256",
    "differs",
    "what_happened",
    "what_to_do",
)


class BatchReportRow(BaseModel):
    """One parcel of a batch; without a receipt nothing was packed, and `what` and `todo` say why where it failed."""

    video: str
    destination: str
    state: PackState
    receipt: Receipt | None = None
    what: str = ""
    todo: str = ""

    @property
    def differs(self) -> str:
        """Settings that came out otherwise than planned, with what was measured; empty for none."""
        rows = self.receipt.differing if self.receipt else ()
        return "; ".join(f"{row.setting}: {row.measured} instead of {row.planned}" for row in rows)


class BatchReport(BaseModel):
    """A batch with all its parcels, in the order in which they were queued, failures first. `created_at` is in s since 1970."""

    title: str
    created_at: float
    rows: list[BatchReportRow]

    @property
    def when(self) -> str:
        """When it was made, by the local clock."""
        return datetime.fromtimestamp(self.created_at).strftime("%Y-%m-%d %H:%M")

    @property
    def packed(self) -> int:
        """How many parcels have a receipt."""
        return sum(row.receipt is not None for row in self.rows)

    @property
    def size_bytes(self) -> int:
        """Sum of all packed files."""
        return sum(row.receipt.size_bytes for row in self.rows if row.receipt)


def batch_report(database: Database, batch_id: str) -> BatchReport:
    """The report of a batch as it stands; raises NotFound."""
    with database.snapshot():
        batch = batches.get(database, batch_id)
        rows = []
        for stored in batches.latest_jobs(database, batch_id):
            job = stored.job
            rows.append(
                BatchReportRow(
                    video=job.subject or job.title,
                    destination=job.goes_to,
                    state=pack_state(job),
                    receipt=_receipt(database, job.id),
                    what=job.problem.what if job.problem else "",
                    todo=job.problem.todo if job.problem else "",
                )
            )
    rows.sort(key=lambda row: row.state is not PackState.FAILED)
    return BatchReport(title=batch.title, created_at=batch.created_at, rows=rows)


def _receipt(database: Database, job_id: str) -> Receipt | None:
    try:
        return results.receipt(database, job_id).receipt.model_copy(update={"stills": None})
    except NotFound:
        return None


def batch_html(report: BatchReport) -> str:
    """The report as one page without outside requests."""
    template = page_environment().from_string(template_text(TEMPLATE))
    return template.render(report=report, policy=Markup(page_policy(TEMPLATE)))


def batch_csv(report: BatchReport) -> str:
    """One row for each parcel. No cell begins a formula."""
    text = io.StringIO()
    rows = csv.writer(text)
    rows.writerow(COLUMNS)
    for row in report.rows:
        rows.writerow([safe_cell(cell) for cell in _cells(row)])
    return text.getvalue()


def _cells(row: BatchReportRow) -> Sequence[object]:
    receipt = row.receipt
    file = (
        [receipt.folder, receipt.file_name, receipt.size_bytes, round(receipt.encode_s, 1), receipt.sha256]
        if receipt
        else [""] * 5
    )
    return [row.video, row.destination, row.state.value, *file, row.differs, row.what, row.todo]


def batch_json(report: BatchReport) -> str:
    """Everything, each receipt whole but for its pictures."""
    return report.model_dump_json(indent=2)


def batch_sums(report: BatchReport) -> str:
    """What `sha256sum -c` takes in the folder of the files."""
    return checksum_lines([row.receipt for row in report.rows if row.receipt])
