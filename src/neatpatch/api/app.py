"""The application: routes, guard, errors, the built page."""

from __future__ import annotations

import logging
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from fastapi import FastAPI, HTTPException
from fastapi.middleware.gzip import GZipMiddleware
from fastapi.responses import FileResponse

from neatpatch import __version__
from neatpatch.api.common import problems
from neatpatch.api.common.deps import ROOM_AT
from neatpatch.api.common.listening import CannotServeError
from neatpatch.api.common.plain_headers import PlainHeaders
from neatpatch.api.common.practice_app import PracticeApp
from neatpatch.api.common.streams import Streams
from neatpatch.api.common.turns import ReadsInTurn
from neatpatch.api.common.unchanged import Unchanged
from neatpatch.api.guard import BodyLimit, OriginGuard, ReadersUnits
from neatpatch.api.routes import ROUTERS
from neatpatch.api.sharing.serving import PORT, Sharing
from neatpatch.core.common.errors import NotThereError
from neatpatch.core.common.records import plain_text
from neatpatch.demo.job import DEMO_JOB, queue_demo
from neatpatch.images.limits import DEFAULT_LIMITS, Limits
from neatpatch.jobs.pictures import PictureRunner
from neatpatch.jobs.runner import Runner, RunnerOptions
from neatpatch.services.frames.intake import STALLED_S
from neatpatch.services.safety.chores import Chores
from neatpatch.services.safety.keeping import BackupKeeper
from neatpatch.services.stats.bookkeeping import Bookkeeper
from neatpatch.services.watched.folders import Folders
from neatpatch.store.datafolder import Library

_log = logging.getLogger("neatpatch.api")
PAGE = Path(__file__).parent / "page"
_LONGEST_PATH = 200
_SECURITY = {
    "Content-Security-Policy": "default-src 'self'; img-src 'self' blob: data:; "
    "style-src 'self' 'unsafe-inline'; font-src 'self' data:; frame-ancestors 'none'",
}


@dataclass(frozen=True, kw_only=True)
class AppOptions:
    """``demo`` fills the folder with the made-up archive once; pictures that appear in the folder
    ``watched`` are taken in by themselves; ``hosts``: names it answers under beside the local ones.
    ``share``: with the network from the start; at ``share_on``, else at the machine's own address.
    ``within``: this is the room of a practised clean, which holds no other.
    """

    demo: bool = False
    hosts: frozenset[str] = frozenset()
    limits: Limits = DEFAULT_LIMITS
    runner: RunnerOptions = field(default_factory=RunnerOptions)
    page: Path = PAGE
    watched: Path | None = None
    stalled_s: float = STALLED_S
    share: bool = False
    share_on: str | None = None
    share_port: int = PORT
    within: bool = False


def create_app(library: Library, options: AppOptions | None = None) -> FastAPI:
    """The application over one data folder, which this process must own."""
    options = options or AppOptions()
    runner = Runner(library, replace(options.runner, kinds={"demo": DEMO_JOB}))
    keeper = BackupKeeper(library)
    chores = Chores(library, keeper, runner.make_missing)
    bookkeeper = Bookkeeper(library)
    folders = Folders(library, runner.nudge, options.limits, options.watched)
    pictures = PictureRunner(library)
    sharing = Sharing(library, options.share_on, options.share_port)
    trial = PracticeApp(library.root, lambda room: create_app(room, _room_options(options)))

    @asynccontextmanager
    async def lifespan(_app: FastAPI) -> AsyncIterator[None]:
        if options.demo:
            queue_demo(library)
        runner.start()
        folders.start()
        keeper.start()
        bookkeeper.start()
        pictures.start()
        if options.share:
            await _share(sharing)
        async with trial.kept():
            with library.database.kept_open():
                yield
            runner.stopping()
            trial.stopping()
        await sharing.stop()
        pictures.stop()
        folders.stop()
        chores.end()
        keeper.stop()
        bookkeeper.stop()
        runner.stop()

    app = FastAPI(
        title="Neat Patch",
        version=__version__,
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
    )
    app.state.data, app.state.runner, app.state.limits = library, runner, options.limits
    app.state.stalled_s, app.state.folders = options.stalled_s, folders
    app.state.keeper = keeper
    app.state.chores = chores
    app.state.bookkeeper = bookkeeper
    app.state.pictures = pictures
    app.state.sharing = sharing
    app.state.trial = trial
    app.state.streams = Streams(lambda: runner.is_stopping)
    problems.install(app)
    # As they are: an included router would be worked out anew by each application.
    app.router.routes += [route for router in ROUTERS for route in router.routes]
    if not options.within:
        app.mount(ROOM_AT, trial)
    _serve_page(app, options.page)
    _describe_problems(app)
    app.add_middleware(ReadsInTurn)
    app.add_middleware(ReadersUnits)
    app.add_middleware(BodyLimit)
    app.add_middleware(OriginGuard, hosts=options.hosts)
    app.add_middleware(PlainHeaders)
    app.add_middleware(Unchanged)
    app.add_middleware(GZipMiddleware, minimum_size=1000, compresslevel=5)
    sharing.serve_this(app)
    return app


def _room_options(options: AppOptions) -> AppOptions:
    """A practised clean has one worker of its own, and shares nothing."""
    return AppOptions(
        hosts=options.hosts,
        limits=options.limits,
        runner=replace(options.runner, workers=1, warm=False),
        page=options.page,
        stalled_s=options.stalled_s,
        within=True,
    )


async def _share(sharing: Sharing) -> None:
    """Share from the start; where that cannot be, it is said, and one goes on at home."""
    try:
        await sharing.start()
    except CannotServeError as error:
        _log.warning("Not shared: %s", error)


def _describe_problems(app: FastAPI) -> None:
    """Let the description tell of every error an operation may answer with."""
    plain = app.openapi

    def described() -> dict[str, Any]:
        if app.openapi_schema is None:
            problems.describe_problems(plain())
        return plain()

    app.openapi = described  # type: ignore[method-assign]


def _serve_page(app: FastAPI, page: Path) -> None:
    @app.get("/{path:path}", include_in_schema=False)
    def serve(path: str) -> FileResponse:
        root = page.resolve()
        wanted = (root / plain_text(path)[:_LONGEST_PATH]).resolve()
        if wanted.is_relative_to(root) and wanted.is_file():
            lasting = "assets" in wanted.parts
            cache = "public, max-age=31536000, immutable" if lasting else "no-cache"
            return FileResponse(wanted, headers={**_SECURITY, "Cache-Control": cache})
        if path.startswith("assets/") or "." in path.rsplit("/", 1)[-1]:
            raise NotThereError(f"There is no file {plain_text(path)[:_LONGEST_PATH]}.")
        index = root / "index.html"
        if not index.is_file():
            raise HTTPException(503, "The page is not built yet. Run 'make demo'.")
        return FileResponse(index, headers={**_SECURITY, "Cache-Control": "no-cache"})
