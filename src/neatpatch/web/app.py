"""The application: routes, guard, errors, the built page."""

from __future__ import annotations

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import FastAPI, HTTPException
from fastapi.responses import FileResponse

from neatpatch import __version__
from neatpatch.images.limits import DEFAULT_LIMITS, Limits
from neatpatch.store import jobs as job_rows
from neatpatch.store.datafolder import Library
from neatpatch.store.settings import get_setting
from neatpatch.web import (
    body_routes,
    kit_routes,
    looking_routes,
    problems,
    routes,
    visit_routes,
)
from neatpatch.web.guard import OriginGuard
from neatpatch.web.jobs import DEMO_MADE, Runner
from neatpatch.web.watch import Watcher

PAGE = Path(__file__).parent / "page"
_SECURITY = {
    "Content-Security-Policy": "default-src 'self'; img-src 'self' blob: data:; "
    "style-src 'self' 'unsafe-inline'; font-src 'self' data:; frame-ancestors 'none'",
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
}


def create_app(
    library: Library, *, demo: bool = False, hosts: frozenset[str] = frozenset(),
    limits: Limits = DEFAULT_LIMITS, workers: int = 2, page: Path = PAGE,
    watched: Path | None = None,
) -> FastAPI:  # fmt: skip
    """The application over one data folder; ``demo`` fills it with the made-up archive once.

    Pictures that appear in the folder ``watched`` are taken in by themselves.
    """
    runner = Runner(library, workers)
    watcher = Watcher(library, watched, runner.nudge, limits) if watched else None

    @asynccontextmanager
    async def lifespan(_app: FastAPI) -> AsyncIterator[None]:
        if demo:
            queue_demo(library)
        runner.start()
        if watcher:
            watcher.start()
        yield
        if watcher:
            watcher.stop()
        runner.stop()

    app = FastAPI(
        title="Neat Patch", version=__version__, lifespan=lifespan, docs_url=None, redoc_url=None,
        openapi_url="/api/openapi.json",
        responses={
            status: {"model": problems.Problem, "description": text}
            for status, text in {404: "Not there", 422: "Not possible as given"}.items()
        },
    )  # fmt: skip
    app.state.data, app.state.runner, app.state.limits = library, runner, limits
    problems.install(app)
    for module in (body_routes, kit_routes, visit_routes, looking_routes, routes):
        app.include_router(module.router)
    _serve_page(app, page)
    app.add_middleware(OriginGuard, hosts=hosts)
    return app


def queue_demo(library: Library) -> None:
    """Queue the making of the demo archive, unless it was made or is waiting."""
    with library.database.write() as connection:
        if get_setting(connection, DEMO_MADE):
            return
        if any(job.kind == "demo" for job in job_rows.open_jobs(connection)):
            return
        job_rows.add_job(connection, "demo", "Saltmarsh Chart Archive")


def _serve_page(app: FastAPI, page: Path) -> None:
    @app.get("/{path:path}", include_in_schema=False)
    def serve(path: str) -> FileResponse:
        root = page.resolve()
        wanted = (root / path).resolve()
        if wanted.is_relative_to(root) and wanted.is_file():
            lasting = "assets" in wanted.parts
            cache = "public, max-age=31536000, immutable" if lasting else "no-cache"
            return FileResponse(wanted, headers={**_SECURITY, "Cache-Control": cache})
        if path.startswith("assets/") or "." in path.rsplit("/", 1)[-1]:
            raise HTTPException(404, f"There is no file {path}.")
        index = root / "index.html"
        if not index.is_file():
            raise HTTPException(503, "The page is not built yet. Run 'make demo'.")
        return FileResponse(index, headers={**_SECURITY, "Cache-Control": "no-cache"})
