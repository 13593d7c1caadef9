"""A headless Chromium that tests drive: it opens a page, runs words of script in it, and says what it
asked the network for.
"""

from __future__ import annotations

import base64
import json
import shutil
import subprocess
import tempfile
import time
from pathlib import Path

NAMES = ("chromium", "chromium-browser", "google-chrome")


def chromium() -> str:
    """Return where a Chromium is; empty if there is none."""
    return next((found for name in NAMES if (found := shutil.which(name))), "")


class Browser:
    """Use as a context manager."""

    def __init__(self, size: tuple[int, int] = (640, 480)) -> None:
        self.folder = tempfile.mkdtemp(prefix="pale-ember-browser-")
        self.asked: list[str] = []
        self.said: list[str] = []
        self._number = 0
        self.process = subprocess.Popen(
            [
                chromium(),
                "--headless=new",
                "--no-sandbox",
                "--disable-quic",
                "--no-first-run",
                "--disable-background-networking",
                "--disable-component-update",
                "--disable-sync",
                "--disable-extensions",
                "--use-angle=swiftshader",
                "--enable-unsafe-swiftshader",
                "--ignore-gpu-blocklist",
                "--remote-debugging-port=0",
                "--remote-allow-origins=*",
                f"--user-data-dir={self.folder}",
                f"--window-size={size[0]},{size[1]}",
                "about:blank",
            ],
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )

    def __enter__(self) -> Browser:
        import urllib.request

        import websocket

        at, until = Path(self.folder, "DevToolsActivePort"), time.monotonic() + 60
        while not at.exists() or not at.read_text().strip():
            if time.monotonic() > until:
                raise TimeoutError("Chromium doesn't start")
            time.sleep(0.1)
        port = at.read_text().split()[0]
        pages = json.load(urllib.request.urlopen(f"http://127.0.0.1:{port}/json", timeout=30))
        self.socket = websocket.create_connection(
            next(one["webSocketDebuggerUrl"] for one in pages if one["type"] == "page"), timeout=180
        )
        for domain in ("Page", "Network", "Runtime", "Log"):
            self.send(f"{domain}.enable")
        return self

    def __exit__(self, *_: object) -> None:
        self.socket.close()
        self.process.kill()
        self.process.wait()
        shutil.rmtree(self.folder, ignore_errors=True)

    def send(self, method: str, **params: object) -> dict:
        """Send a command, and return its answer."""
        self._number += 1
        self.socket.send(json.dumps({"id": self._number, "method": method, "params": params}))
        while True:
            found = json.loads(self.socket.recv())
            if found.get("id") == self._number:
                if "error" in found:
                    raise RuntimeError(found["error"])
                return found["result"]
            self._hear(found)

    def _hear(self, event: dict) -> None:
        name, told = event.get("method"), event.get("params", {})
        if name == "Network.requestWillBeSent":
            self.asked.append(told["request"]["url"])
        elif name == "Runtime.exceptionThrown":
            self.said.append(str(told["exceptionDetails"].get("exception", {}).get("description", told)))
        elif name == "Log.entryAdded":
            self.said.append(told["entry"]["text"])

    def open(self, url: str, ready: str, seconds: float = 60.0) -> float:
        """Open a page and wait until words of script are true; return how long it took, s."""
        begin = time.monotonic()
        self.send("Page.navigate", url=url)
        while time.monotonic() - begin < seconds:
            try:
                if self.run(ready):
                    return time.monotonic() - begin
            except RuntimeError:
                pass  # between two pages
            time.sleep(0.02)
        raise TimeoutError(f"{ready} doesn't become true; {self.said}")

    def run(self, words: str) -> object:
        """Return what words of script give."""
        found = self.send("Runtime.evaluate", expression=words, returnByValue=True, awaitPromise=True)
        if "exceptionDetails" in found:
            raise RuntimeError(str(found["exceptionDetails"]))
        return found["result"].get("value")

    def picture(self, canvas: str = "canvas") -> bytes:
        """Return a canvas's picture as PNG."""
        text = str(self.run(f"document.getElementById('{canvas}').toDataURL('image/png')"))
        return base64.b64decode(text.partition(",")[2])
