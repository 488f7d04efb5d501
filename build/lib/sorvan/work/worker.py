"""A worker: takes jobs from the queue in the database, and sees to it that none is forgotten."""

from __future__ import annotations

import asyncio
import contextlib
import logging
import os
import signal
import sys
import threading
from typing import Any, NoReturn

import procrastinate
import psycopg
from procrastinate.exceptions import ConnectorException
from procrastinate.jobs import DeleteJobCondition
from sqlalchemy import Engine

from sorvan.store import jobs, renders
from sorvan.store.database import AWAY
from sorvan.work.parts import TRIES, Drawer

log = logging.getLogger("sorvan")
GONE = (ConnectorException, psycopg.Error, OSError, *AWAY)
"""What is raised while the database can't be reached."""
TEND = 2.0
"""Seconds between looks for jobs that nobody does."""
HEARTBEAT, SILENT = 2.0, 10.0
"""Seconds between a worker's signs of life, and after which a silent one counts as dead."""
PATIENCE = 20
"""Seconds in which work must end once it is told to. What is drawn is kept, and what is not is drawn by another."""
NICE = 5
"""How far a worker stands back for what must answer at once."""
KILLED = "The drawing process ended by itself, several times. Try a smaller size."


class Worker:
    """Works until it is told to end, over any loss of the database."""

    def __init__(self, engine: Engine) -> None:
        self.engine = engine
        self.drawer = Drawer(engine)
        self.ending = threading.Event()

    def run(self, with_parent: bool = False) -> NoReturn:
        """Take jobs until told to end: by a signal, or, `with_parent`, when whoever started it is gone. The process ends
        with that."""
        with contextlib.suppress(OSError):
            os.nice(NICE)
        let_go = asyncio.new_event_loop().run_until_complete(self._run(with_parent))
        if not let_go:
            log.error("the worker did not come to its end by itself")
        # Not by closing the loop: what the queue of jobs has left there may wait for a database that never comes back.
        logging.shutdown()
        os._exit(0 if let_go else 1)

    async def _run(self, with_parent: bool) -> bool:
        """Work until told to end. Gives whether the work was let go in time."""
        loop, ended = asyncio.get_running_loop(), asyncio.Event()

        def end() -> None:
            self.ending.set()
            loop.call_soon_threadsafe(ended.set)

        for number in (signal.SIGTERM, signal.SIGINT):
            loop.add_signal_handler(number, end)
        if with_parent:
            threading.Thread(target=_when_the_parent_goes, args=(end,), daemon=True).start()
        working = asyncio.create_task(self._work())
        await ended.wait()
        for _ in range(PATIENCE):
            # Said once it may be lost, as while what takes jobs has not come up yet.
            working.cancel()
            if (await asyncio.wait([working], timeout=1.0))[0]:
                return True
        return False

    async def _work(self) -> None:
        while not self.ending.is_set():
            app = self._app()
            try:
                async with app.open_async():
                    await self._take_and_tend(app)
            except GONE:
                await asyncio.sleep(1.0)
            except Exception:
                log.exception("the worker stumbled")
                await asyncio.sleep(1.0)

    async def _take_and_tend(self, app: procrastinate.App) -> None:
        both = [
            asyncio.create_task(work)
            for work in (
                app.run_worker_async(
                    queues=[jobs.QUEUE],
                    concurrency=1,
                    install_signal_handlers=False,
                    delete_jobs=DeleteJobCondition.ALWAYS,
                    update_heartbeat_interval=HEARTBEAT,
                    stalled_worker_timeout=SILENT,
                ),
                self._tend(app),
            )
        ]
        try:
            done, _ = await asyncio.wait(both, return_when=asyncio.FIRST_COMPLETED)
            for task in done:
                task.result()
        finally:
            for task in both:
                task.cancel()
            await asyncio.gather(*both, return_exceptions=True)

    def _app(self) -> procrastinate.App:
        options = {"options": f"-c search_path={jobs.SCHEMA},public", "connect_timeout": 3}
        connector = procrastinate.PsycopgConnector(
            conninfo=jobs.address(self.engine), kwargs=options, min_size=1, max_size=4, timeout=5
        )
        app = procrastinate.App(connector=connector)
        again = procrastinate.RetryStrategy(max_attempts=TRIES, wait=1)

        @app.task(name=jobs.DRAW, queue=jobs.QUEUE, pass_context=True, retry=again)
        def draw(context: procrastinate.JobContext, render: str, part: int) -> None:
            tries = (context.job.attempts or 0) + 1
            self.drawer.draw(render, part, tries, lambda: self.ending.is_set() or context.should_abort())

        return app

    async def _tend(self, app: procrastinate.App) -> None:
        """Give back the jobs of workers that died, and queue what no job stands for any more."""
        while True:
            for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=SILENT):
                if (job.attempts or 0) >= TRIES and job.task_name == jobs.DRAW:
                    render = str(job.task_kwargs.get("render"))
                    await asyncio.to_thread(renders.end, self.engine, render, "failed", KILLED)
                await app.job_manager.retry_job(job)
            await asyncio.to_thread(renders.queue_again, self.engine)
            await asyncio.sleep(TEND)


def _when_the_parent_goes(end: Any) -> None:
    """Call `end` once standard input, which whoever started this holds open, is at its end."""
    with contextlib.suppress(OSError, ValueError):
        # Not through the buffer, whose lock this thread would hold while the process ends.
        while os.read(sys.stdin.fileno(), 4096):
            pass
    end()
