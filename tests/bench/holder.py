"""Holds event streams and half-sent requests open, in a process of its own: ``holder.py PORT STREAMS HALVES WORLD...`` with
cookies on standard input; each stream looks at one of the worlds. Prints how many streams said hello, then reads whatever comes until standard input ends."""

from __future__ import annotations

import asyncio
import resource
import sys


async def stream(port: int, cookie: str, world: str, gate: asyncio.Semaphore) -> asyncio.StreamReader | None:
    """One open stream that has said hello; None when it was refused."""
    async with gate:
        reader, writer = await asyncio.open_connection("127.0.0.1", port)
        writer.write(f"GET /api/stream?world={world} HTTP/1.1\r\nHost: localhost\r\nCookie: {cookie}\r\n\r\n".encode())
        HELD.append(writer)
        while line := await reader.readline():
            if b"data: hello" in line:
                return reader
        return None


async def half(port: int, n: int) -> None:
    """A request of which the rest never comes."""
    while True:
        reader, writer = await asyncio.open_connection("127.0.0.1", port)
        head = b"POST /api/session HTTP/1.1\r\nHost: localhost\r\nX-Mindful-Crate: 1\r\nContent-Length: 40\r\n\r\n{"
        writer.write(head if n % 2 else b"GET /api/me HTT")
        await reader.read()  # until the server has had enough of it; then again
        writer.close()


async def drain(reader: asyncio.StreamReader) -> None:
    """Read what comes, as a browser would."""
    while await reader.read(65536):
        pass


HELD: list[asyncio.StreamWriter] = []


async def main(port: int, streams: int, halves: int, worlds: list[str], cookies: list[str]) -> None:
    """Hold them until told to end."""
    gate = asyncio.Semaphore(40)
    opened = await asyncio.gather(
        *(stream(port, cookies[n % len(cookies)], worlds[n % len(worlds)], gate) for n in range(streams))
    )
    tasks = [asyncio.create_task(drain(r)) for r in opened if r]
    tasks += [asyncio.create_task(half(port, n)) for n in range(halves)]
    print(sum(r is not None for r in opened), flush=True)
    await asyncio.get_running_loop().run_in_executor(None, sys.stdin.read)


if __name__ == "__main__":
    hard = resource.getrlimit(resource.RLIMIT_NOFILE)[1]
    resource.setrlimit(resource.RLIMIT_NOFILE, (hard, hard))
    told = sys.stdin.readline().split("|")
    asyncio.run(main(int(sys.argv[1]), int(sys.argv[2]), int(sys.argv[3]), sys.argv[4:], [c.strip() for c in told]))
