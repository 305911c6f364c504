"""The application, put together."""

from __future__ import annotations

import asyncio
import warnings
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from importlib import resources
from pathlib import Path
from typing import Any

from fastapi import FastAPI, Request
from fastapi.responses import HTMLResponse, Response
from fastapi.staticfiles import StaticFiles
from pydantic import TypeAdapter
from pydantic.warnings import UnsupportedFieldAttributeWarning

from hollow_pin import __version__
from hollow_pin.api import (
    calculators,
    calibrating,
    centring,
    deciding,
    donors,
    files,
    function_checks,
    inspections,
    jobs,
    live,
    openings,
    pairing,
    parts,
    problems,
    shop,
    source_checks,
    sources,
    studies,
    takes,
    timers,
)
from hollow_pin.api.bounds import Bounds
from hollow_pin.api.context import ReadOnly
from hollow_pin.api.files import Workers
from hollow_pin.api.guard import LOOPBACK, Guard
from hollow_pin.api.once import Once
from hollow_pin.api.pairing import Tries
from hollow_pin.api.routes import api_routes
from hollow_pin.api.running import Running
from hollow_pin.api.schemas import (
    Catalogue,
    ConditionInfo,
    FieldError,
    Health,
    MappingSpec,
    ProblemDetails,
    ReadingInfo,
    RemedyInfo,
    TakeInWords,
)
from hollow_pin.api.upkeep import State, Upkeep
from hollow_pin.core.catalogue import READINGS
from hollow_pin.core.cautions import cautions_for
from hollow_pin.core.centring_result import CentringNow
from hollow_pin.core.intake import ENDED_LABEL, LABEL, MOVES, REFER, TRIED_LABEL, WAITING_LABEL
from hollow_pin.core.job import STATIONS
from hollow_pin.core.limits import GRADES, LIMIT_OF
from hollow_pin.core.remedies import REMEDIES
from hollow_pin.core.routine import STEP_LABEL
from hollow_pin.core.source_watch import SourceCheckNow
from hollow_pin.core.sources import SOURCES
from hollow_pin.core.teardown import BATTERY_LABEL, STEP_KINDS
from hollow_pin.core.timers import KIND_LABEL
from hollow_pin.core.tracking.tracker import Progress
from hollow_pin.core.work_fields import in_order
from hollow_pin.simulator.conditions import CONDITIONS
from hollow_pin.store.database import Database

UNROUTED: tuple[type, ...] = (
    ProblemDetails,
    FieldError,
    MappingSpec,
    Progress,
    CentringNow,
    SourceCheckNow,
)
"""Shapes no route names: errors, a form field that holds JSON, what the WebSocket says."""

tables = api_routes("tables")


@tables.get("/health")
def get_health() -> Health:
    """That the server is up, and which version it is."""
    return Health(version=__version__)


@tables.get("/state")
def get_state(request: Request, db: ReadOnly) -> State:
    """How the bench itself is: the last backup, room, what is worked out anew, what is wrong."""
    upkeep: Upkeep = request.app.state.upkeep
    return upkeep.state(db)


@tables.get("/catalogue")
def get_catalogue() -> Catalogue:
    """Names, units and limits of the readings; kinds of work and their cautions."""
    readings = []
    for r in READINGS:
        limit = LIMIT_OF.get(r.path)
        readings.append(
            ReadingInfo(
                path=r.path,
                label=r.label,
                unit=r.unit,
                aim=r.aim,
                tells=r.tells,
                headline=r.headline,
                axes=[n for n in (1, 2) if r.applies_to(n)],
                limits={grade: limit.at(grade) for grade in GRADES} if limit else None,
                reason=limit.reason if limit else None,
            )
        )
    remedies = [
        RemedyInfo(
            remedy=r,
            is_work=r.is_work,
            needs=r.needs,
            cautions=list(cautions_for(r.code)),
            fields=list(in_order(r.fields)),
        )
        for r in REMEDIES
    ]
    conditions = [
        ConditionInfo(id=c.id, label=c.label, kinds=c.kinds, unsprung=c.unsprung)
        for c in CONDITIONS.values()
    ]
    return Catalogue(
        readings=readings,
        grades=GRADES,
        steps=STEP_LABEL,
        stations=STATIONS,
        sources=SOURCES,
        remedies=remedies,
        conditions=conditions,
        take_in=TakeInWords(
            labels=LABEL,
            tried=TRIED_LABEL,
            waiting=WAITING_LABEL,
            ended=ENDED_LABEL,
            moves=MOVES,
            refer=REFER,
        ),
        waits=KIND_LABEL,
        step_kinds=STEP_KINDS,
        batteries=BATTERY_LABEL,
    )


def create_app(
    database: Database, hosts: frozenset[str] = LOOPBACK, web: Path | None = None
) -> FastAPI:
    """The application on a database. hosts: the names it answers to. web: the built front end."""

    upkeep, workers = Upkeep(database), Workers()

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        await upkeep.start()
        yield
        await upkeep.stop()
        await asyncio.to_thread(workers.stop)
        await asyncio.to_thread(database.close)

    app = FastAPI(
        title="Hollow Pin",
        version=__version__,
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
    )
    app.state.database = database
    app.state.running = Running()
    app.state.upkeep = upkeep
    app.state.workers = workers
    app.state.tries = Tries()
    problems.install(app)
    _describe_unrouted(app)
    for router in (
        tables,
        jobs.router,
        function_checks.router,
        takes.router,
        files.router,
        pairing.router,
        shop.router,
        sources.router,
        studies.router,
        deciding.router,
        calculators.router,
        calibrating.router,
        parts.router,
        centring.views,
        source_checks.views,
        timers.router,
        openings.router,
        inspections.views,
        donors.router,
        live.router,
        centring.router,
        source_checks.router,
        inspections.router,
    ):
        app.router.routes.extend(router.routes)
    # The last is the outermost.
    app.add_middleware(Once, database=database)
    app.add_middleware(Bounds)
    app.add_middleware(Guard, hosts=hosts, database=database)
    _serve_front_end(app, web or Path(str(resources.files("hollow_pin") / "web")))
    return app


def _describe_unrouted(app: FastAPI) -> None:
    describe = app.openapi
    # The framework itself gives a lone file of a form an alias that has no effect.
    warnings.filterwarnings("ignore", category=UnsupportedFieldAttributeWarning)

    def whole() -> dict[str, Any]:
        document = describe()
        schemas = document.setdefault("components", {}).setdefault("schemas", {})
        for shape in UNROUTED:
            schema = TypeAdapter(shape).json_schema(
                ref_template="#/components/schemas/{model}", mode="serialization"
            )
            schemas.update(schema.pop("$defs", {}))
            schemas[shape.__name__] = schema
        return document

    app.openapi = whole  # type: ignore[method-assign]


def _serve_front_end(app: FastAPI, web: Path) -> None:
    page = web / "index.html"
    if (web / "assets").is_dir():
        app.mount("/assets", StaticFiles(directory=web / "assets"), name="assets")

    @app.get("/api/{rest:path}", include_in_schema=False)
    def unknown(rest: str) -> Response:
        return problems.problem(404, "Not found", f"There is nothing at /api/{rest}.")

    @app.get("/{rest:path}", include_in_schema=False)
    def front_end(rest: str, request: Request) -> Response:
        """Every other address is a place in the interface."""
        if not page.exists():
            return problems.problem(
                503, "No front end", "The front end is not built. Run `make web` first."
            )
        if "." in rest.rpartition("/")[2]:
            return problems.problem(404, "Not found", f"There is nothing at /{rest}.")
        html = page.read_text("utf-8").replace("__NONCE__", request.state.nonce)
        return HTMLResponse(html, headers={"Cache-Control": "no-store"})
