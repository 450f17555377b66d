"""One table from errors to HTTP: status, and a body with code, message, where and hint."""

from fastapi import Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel

from ulmek.core import errors
from ulmek.store.database import ConflictError
from ulmek.store.hold import HeldError
from ulmek.store.results import ResultError

STATUS: dict[type[errors.UlmekError], int] = {
    errors.UlmekError: 500,
    errors.InputError: 422,
    errors.GeometryError: 422,
    errors.UnitError: 422,
    errors.UnknownNameError: 404,
    errors.MeshError: 422,
    errors.SolveError: 422,
    errors.LooseError: 422,
    errors.InvertedError: 422,
    errors.NotConvergedError: 422,
    errors.StoppedError: 409,
    ConflictError: 409,
    HeldError: 409,
    ResultError: 404,
}


class Problem(BaseModel):
    """What every failed request answers."""

    code: str
    message: str
    where: str = ""
    hint: str = ""


def problem_of(error: errors.UlmekError) -> Problem:
    """What is said of any error of ours."""
    return Problem(code=error.code, message=error.message, where=error.where, hint=error.hint)


def answer(_: Request, error: Exception) -> JSONResponse:
    """Answer for any error of ours."""
    assert isinstance(error, errors.UlmekError)
    return JSONResponse(problem_of(error).model_dump(), status_code=STATUS[type(error)])


def answer_fault(_: Request, error: Exception) -> JSONResponse:
    """Answer for what nobody foresaw: a fault of the server, which goes on."""
    problem = Problem(
        code="fault", message=f"the server met an unexpected {type(error).__name__}: {str(error)[:200]}",
        hint="Nothing that was saved is lost. Try another way, and report this.",
    )  # fmt: skip
    return JSONResponse(problem.model_dump(), status_code=500)


def answer_busy(_: Request, error: Exception) -> JSONResponse:
    """Answer while the database cannot be written to: another program holds it, or the disk is full."""
    problem = Problem(
        code="database", message=f"the database does not answer: {str(getattr(error, 'orig', error))[:200]}.",
        hint="Close what else has ulmek.db open, see that the disk has room, and try again. Nothing saved is lost.",
    )  # fmt: skip
    return JSONResponse(problem.model_dump(), status_code=503)


def answer_bad_request(_: Request, error: Exception) -> JSONResponse:
    """Answer for a request whose own shape is wrong."""
    assert isinstance(error, RequestValidationError)
    first = error.errors()[0]
    where = "/".join(str(step) for step in first["loc"])
    is_json = first["type"] == "json_invalid"
    message = "the request is not valid JSON." if is_json else f"{first['msg']}."
    return JSONResponse(Problem(code="bad-request", message=message, where=where).model_dump(), status_code=422)
