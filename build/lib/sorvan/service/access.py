"""Who may speak to the service: only pages that it served itself."""

from __future__ import annotations

from starlette.types import ASGIApp, Message, Receive, Scope, Send

from sorvan.service.problems import problem

LOOPBACK = ("127.0.0.1", "localhost", "[::1]")


class OwnPagesOnly:
    """Checks `Host` and `Origin` on every request and socket.

    The host check keeps another site from reaching the service under a name of its own that
    it points at this machine; the origin check keeps its pages from sending changes.
    """

    def __init__(self, app: ASGIApp, hosts: tuple[str, ...] = LOOPBACK) -> None:
        self.app, self.hosts = app, hosts

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] in ("http", "websocket") and not self._own(scope):
            if scope["type"] == "websocket":
                await receive()
                await send({"type": "websocket.close", "code": 4003})
                return
            refusal = problem(
                403,
                "This address only answers its own pages.",
                kind="foreign",
                remedy="Open the address that the start command printed.",
            )
            await refusal(scope, receive, send)
            return
        await self.app(scope, receive, send)

    def _own(self, scope: Scope) -> bool:
        headers = {k.decode("latin-1"): v.decode("latin-1") for k, v in scope["headers"]}
        host = headers.get("host", "")
        name = host.rsplit(":", 1)[0] if not host.endswith("]") else host
        if name not in self.hosts:
            return False
        origin = headers.get("origin")
        if origin is not None:
            scheme = {"ws": "http", "wss": "https"}.get(scope["scheme"], scope["scheme"])
            return origin == f"{scheme}://{host}"
        # A browser that says nothing of the origin says at least how near it is (W3C Fetch Metadata, §2.3).
        near = headers.get("sec-fetch-site")
        if near in (None, "same-origin", "none"):
            return True
        # Somebody followed a link to a page, which shows it and does nothing.
        opened = headers.get("sec-fetch-mode") == "navigate" and headers.get("sec-fetch-dest") == "document"
        return opened and scope.get("method") == "GET" and not scope["path"].startswith("/api")


class PlainPaths:
    """Refuses addresses with what can't be printed in them, before anybody reads them: what a line ends with is read
    differently by different readers."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] not in ("http", "websocket") or scope["path"].isprintable():
            await self.app(scope, receive, send)
        elif scope["type"] == "websocket":
            await receive()
            await send({"type": "websocket.close", "code": 4004})
        else:
            refusal = problem(404, "There is nothing at this address.", kind="missing", remedy="Check the address.")
            await refusal(scope, receive, send)


class WithHeads:
    """Answers HEAD as GET is answered, without the body (RFC 9110, §9.3.2)."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["method"] != "HEAD":
            await self.app(scope, receive, send)
            return

        async def bare(message: Message) -> None:
            if message["type"] == "http.response.body":
                message = {**message, "body": b""}
            await send(message)

        await self.app({**scope, "method": "GET"}, receive, bare)
