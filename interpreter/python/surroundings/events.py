"""Callbacks are carried out one after the other, in a thread of their own."""
import _thread


class Worker:
    def __init__(self):
        self.waiting = []
        self.bell = None

    def give(self, callback, *args):
        self.waiting.append((callback, args))
        if self.bell is None:
            self.bell = _thread.allocate_lock()
            self.bell.acquire()
            _thread.start_new_thread(self.work, ())
        elif self.bell.locked():
            self.bell.release()

    def work(self):
        while True:
            while self.waiting:
                callback, args = self.waiting.pop(0)
                callback(*args)
            self.bell.acquire()


class Pulses:
    """A pin that goes on and off by itself: from the next period on as its frequency and its share say."""

    def __init__(self, board, pin):
        self.board, self.pin = board, pin
        self.period, self.on = 1_000_000, 0  # ns
        self.running = None

    def start(self, line):
        if self.running is not None:
            return
        self.running = run = object()
        begins, high = [0], [True]

        def edge(now):
            if self.running is not run:
                return None
            if not high[0]:
                high[0] = True
                self.board.say(f"w {now} {self.pin} 0 {line}\n")
                return max(now + 1, begins[0] + self.period)
            begins[0] = now
            on = min(self.on, self.period)
            if on == 0:
                self.board.say(f"w {now} {self.pin} 0 {line}\n")
                return now + self.period
            self.board.say(f"w {now} {self.pin} 1 {line}\n")
            if on == self.period:
                return now + self.period
            high[0] = False
            return now + on

        self.board.at(self.board.now, edge)
        self.board.due()

    def stop(self):
        self.running = None
