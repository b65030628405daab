"""Errors as problem details (RFC 9457), mapped by class. Nobody reads a stack trace or a library's raw text."""

from __future__ import annotations

import errno
from http import HTTPStatus
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from starlette.exceptions import HTTPException

from ..core import errors
from ..core.faults import fault_words

FULL = (errno.ENOSPC, errno.EDQUOT, errno.EFBIG)
STATUS: dict[type[errors.HardyParcelError], int] = {
    errors.HardyParcelError: 500,
    errors.BadInput: 422,
    errors.NotFound: 404,
    errors.UnreadableMaster: 422,
    errors.PlanHeld: 409,
    errors.OverCap: 409,
    errors.PlanChanged: 409,
    errors.ChangedMeanwhile: 409,
    errors.NameTaken: 409,
    errors.FolderUnusable: 422,
    errors.BadChoice: 422,
    errors.DiskFull: 507,
    errors.DockAway: 503,
    errors.EncoderTrouble: 500,
    errors.PackedFileWrong: 500,
    errors.Cancelled: 409,
    errors.StoreTrouble: 503,
}


MOST_FAULTS = 6
"""So many faults of one request are told."""


class ProblemDetails(BaseModel):
    """RFC 9457 with our code; `detail` says what happened and what to do."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    code: str


def problem(status: int, detail: str, code: str) -> JSONResponse:
    """A problem response. What was asked may come back in it, half letters and all, which no answer can carry."""
    told = detail.encode("utf-8", "replace").decode()
    body = ProblemDetails(title=HTTPStatus(status).phrase, status=status, detail=told, code=code)
    return JSONResponse(body.model_dump(), status_code=status, media_type="application/problem+json")


def status_of(error: errors.HardyParcelError) -> int:
    """The HTTP status of an error, by its nearest class."""
    return next(STATUS[cls] for cls in type(error).__mro__ if cls in STATUS)


def install(app: FastAPI) -> None:
    """Answer every error of the tree, of validation and of routing as a problem."""

    @app.exception_handler(errors.HardyParcelError)
    async def ours(request: Request, error: errors.HardyParcelError) -> JSONResponse:
        return problem(status_of(error), str(error), error.code)

    @app.exception_handler(RequestValidationError)
    async def invalid(request: Request, error: RequestValidationError) -> JSONResponse:
        faults = "; ".join(
            f"{'.'.join(map(str, fault['loc'][1:])) or fault['loc'][0]} {fault_words(fault)}" for fault in error.errors()[:MOST_FAULTS]
        )
        return problem(422, f"This could not be understood: {faults}.", "bad_input")

    @app.exception_handler(UnicodeEncodeError)
    async def half_a_letter(request: Request, error: UnicodeEncodeError) -> JSONResponse:
        return problem(422, "This could not be understood: a text in it is no valid text.", "bad_input")

    @app.exception_handler(OverflowError)
    async def too_large(request: Request, error: OverflowError) -> JSONResponse:
        return problem(422, "This could not be understood: a number in it is larger than any that is kept.", "bad_input")

    @app.exception_handler(OSError)
    async def of_the_system(request: Request, error: OSError) -> JSONResponse:
        """What the system refuses wherever a path or a file is used: a name that no file can have, a disk that is full by now."""
        if error.errno in (errno.ENAMETOOLONG, errno.EILSEQ, errno.ELOOP):
            return problem(422, "No file can have that name. Give it a shorter or a plainer one.", "bad_input")
        if error.errno in FULL:
            return problem(507, "The disk is full. Free some space and try again; what was kept before is as it was.", "disk_full")
        raise error

    @app.exception_handler(HTTPException)
    async def routing(request: Request, error: HTTPException) -> JSONResponse:
        response = problem(error.status_code, f"{error.detail}.", "not_found" if error.status_code == 404 else "refused")
        response.headers.update(error.headers or {})
        return response


def _described(code: int, **content: Any) -> dict[str, Any]:
    return {"content": {"application/problem+json": {}, **content}, "description": HTTPStatus(code).phrase}


_REFERENCE = {"application/json": {"schema": {"$ref": f"#/components/schemas/{ProblemDetails.__name__}"}}}
PROBLEMS: dict[int | str, dict[str, Any]] = {
    **{code: _described(code, **_REFERENCE) for code in (404, 409, 422, 500, 503, 507)},
    422: _described(422) | {"model": ProblemDetails},
}
"""What every address may answer. One of them names the model and the others refer to it: the library builds a validator for each that
names one, at every address, which took a quarter of the start."""
