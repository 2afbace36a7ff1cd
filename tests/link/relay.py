"""A relay between a game and the desk that loses, duplicates, delays and reorders datagrams, seeded."""

import heapq
import random
import select
import socket
import threading
import time


class Relay:
    """The game sends to `port`; everything is relayed to the desk and back, or lost."""

    def __init__(self, desk_port, seed, share=0.1, latest=0.06):
        self.chance, self.share, self.latest = random.Random(seed), share, latest
        self.outside, self.inside = (socket.socket(socket.AF_INET, socket.SOCK_DGRAM) for _ in range(2))
        for each in (self.outside, self.inside):
            each.bind(("127.0.0.1", 0))
        self.port, self.desk = self.outside.getsockname()[1], ("127.0.0.1", desk_port)
        self.game = None
        self.lost = self.doubled = self.delayed = 0
        self._waiting, self._count, self._ends = [], 0, threading.Event()
        self._thread = threading.Thread(target=self._run, daemon=True)
        self._thread.start()

    def _run(self):
        while not self._ends.is_set():
            ready, _, _ = select.select([self.outside, self.inside], [], [], 0.002)
            for each in ready:
                try:
                    datagram, sender = each.recvfrom(2048)
                except OSError:
                    continue
                if each is self.outside:
                    self.game = sender
                self._pass_on(datagram, to_desk=each is self.outside)
            while self._waiting and self._waiting[0][0] <= time.monotonic():
                _, _, datagram, to_desk = heapq.heappop(self._waiting)
                self._send(datagram, to_desk)

    def _pass_on(self, datagram, *, to_desk):
        if self.chance.random() < self.share:
            self.lost += 1
            return
        times = 2 if self.chance.random() < self.share else 1
        self.doubled += times - 1
        for _ in range(times):
            if self.chance.random() < self.share:
                self.delayed += 1
                self._count += 1
                due = time.monotonic() + self.chance.uniform(0, self.latest)
                heapq.heappush(self._waiting, (due, self._count, datagram, to_desk))
            else:
                self._send(datagram, to_desk)

    def _send(self, datagram, to_desk):
        if to_desk:
            self.inside.sendto(datagram, self.desk)
        elif self.game is not None:
            self.outside.sendto(datagram, self.game)

    def close(self):
        self._ends.set()
        self._thread.join()
        self.outside.close()
        self.inside.close()
