"""Simulated time, threads and pins: what a script's surroundings stand on.

One thread runs at a time. Which one, and when, follows from simulated time alone, so that a script does the same in
every run. See core/machine/scripted for what is said to the board.
"""
import _thread
import collections
import heapq
import json
import os
import sys

NEVER = 9_000_000_000_000_000  # ns
SYNC = 50_000_000  # ns after which the board is told how late it is
# A script that has only asked for a while, or only computed, gets the processor less often.
A_WHILE, SELDOM = 10_000_000, 100_000  # ns of asking, and ns that a question takes from then on
LONG, SLOWER = 100_000_000, 10  # ns of computing, and how much slower it goes on
QUANTUM = 5_000_000  # ns that a thread keeps the processor while others wait for it
MOST_TEXT = 1 << 12  # characters that are shown at once

_lock = _thread.allocate_lock
_start = _thread.start_new_thread


class Task:
    """A thread. It runs while it holds the turn."""

    def __init__(self, number):
        self.number = number
        self.turn = _lock()
        self.turn.acquire()
        self.waits = 0  # counts what it has waited for: an entry of an earlier one is no longer its own
        self.lock = None  # that it waits for
        self.got = False
        self.sentinels = []  # locks that are released when it ends


class Board:
    """The board, as a script sees it. Times are in ns since power-on, pins are numbers."""

    def __init__(self, receive, send, files, cost, pin_cost, console):
        self.receive, self.send = receive, send
        self.files = {name: number for number, name in enumerate(files)}
        self.cost, self.pin_cost = cost, pin_cost
        self.wired = console["Wired"]  # the console shows what is printed to somebody
        self.character, self.room = console["Character"], console["Room"]  # see core/machine/scripted
        self.shown = 0  # when it will have shown everything
        self.now = 0
        self.sync = SYNC
        self.horizon = 0  # up to when inputs surely stay as they are
        self.levels = 0
        self.watched = 0  # inputs whose changes somebody waits for
        self.watchers = {}  # by who watches: (pins, what is told of their changes)
        self.out = []
        self.timers = []  # (time, number, what is done then)
        self.count = 0
        self.task = Task(1)
        self.tasks = 1  # so far
        self.ready = collections.deque()
        self.sleeping = []  # (time, number, task, waits)
        self.since = 0  # when the running task got its turn
        self.reached = set()  # lines
        self.did = 0  # when the script last did anything but ask and compute, or was told of a change

    # What is said to the board.

    def reach(self, first, last):
        """Note down that lines, as addresses, are carried out: each is told once, until the board asks for it anew."""
        if first not in self.reached:
            self.reached.add(first)
            self.say(f"l {self.now} {first} {last}\n")

    def say(self, line):
        self.out.append(line)
        if len(self.out) >= 2000:
            self.flush()

    def flush(self):
        if self.out:
            data = "".join(self.out).encode("ascii")
            self.out.clear()
            while data:
                data = data[os.write(self.send, data):]

    def ask(self, question):
        self.say(question)
        self.flush()
        line = self.receive.readline()
        if not line:
            os._exit(0)
        return line.decode().split()

    def told(self, answer):
        now, levels, horizon = int(answer[0]), int(answer[1], 16), int(answer[2])
        self.now = max(self.now, now)
        self.horizon, self.sync = horizon, self.now + SYNC
        if answer[3:]:
            self.reached.clear()
        changed = (levels ^ self.levels) & self.watched
        if levels != self.levels:
            self.did = self.now
        self.levels = levels
        if changed:
            for pins, tell in list(self.watchers.values()):
                if pins & changed:
                    tell(pins & changed)

    def watch(self, who, pins, tell):
        """Have somebody told of changes of some pins, from now on."""
        self.look()  # what has been so far is no change
        self.watchers[who] = pins, tell
        self.watched = 0
        for pins, _ in self.watchers.values():
            self.watched |= pins

    def look(self):
        """Ask what inputs are at, and say how late it is."""
        self.told(self.ask(f"b {self.now}\n"))

    def line(self):
        """The line of the script that is being carried out, as an address."""
        frame = sys._getframe(1)
        while frame is not None:
            number = self.files.get(frame.f_code.co_filename)
            if number is not None:
                return number << 20 | frame.f_lineno
            frame = frame.f_back
        return 0

    def write(self, pin, drive, line):
        self.due()
        self.say(f"w {self.now} {pin} {drive} {line}\n")
        self.horizon = 0  # somebody may answer
        self.did = self.now

    def read(self, pin):
        self.due()
        self.ask_seldom()
        if self.now >= self.horizon:
            self.look()
        return self.levels >> pin & 1

    def ask_seldom(self):
        """A question takes longer if there was nothing else for a while."""
        if self.now - self.did > A_WHILE:
            self.spend(SELDOM)

    def voltage(self, pin):
        """The voltage at a pin, in µV."""
        return int(self.ask(f"a {self.now} {pin}\n")[0])

    def note(self, code, text):
        self.say(f"n {self.now} {code} {json.dumps(text)}\n")

    def show(self, text):
        """Print something. Where it goes over a line, it waits until there is room for it."""
        self.did = self.now
        for at in range(0, len(text), MOST_TEXT):
            self.say(f"o {self.now} {json.dumps(text[at:at + MOST_TEXT])}\n")
        if self.wired:
            self.horizon = 0
            self.shown = max(self.shown, self.now) + (len(text.encode()) + text.count("\n")) * self.character
            late = self.shown - self.now - self.room * self.character
            if late > 0:
                self.sleep(late)

    # Time.

    def tick(self, statements):
        """Some statements have been carried out."""
        self.spend(statements * self.cost * (1 if self.now - self.did < LONG else SLOWER))

    def spend(self, time):
        self.now += time
        self.due()
        if self.now >= self.sync or self.watched and self.now >= self.horizon:
            self.look()
        self.wake()
        if self.ready and self.now - self.since >= QUANTUM:
            self.ready.append(self.task)
            self.switch()

    def at(self, time, what):
        """Have something done at a time; it gives the time of the next, or None."""
        self.count += 1
        heapq.heappush(self.timers, (time, self.count, what))

    def due(self):
        """Do what is due."""
        while self.timers and self.timers[0][0] <= self.now:
            time, _, what = heapq.heappop(self.timers)
            now, self.now = self.now, time
            following = what(time)
            self.now = now
            if following is not None:
                self.at(following, what)

    def wake(self):
        while self.sleeping and self.sleeping[0][0] <= self.now:
            _, _, task, waits = heapq.heappop(self.sleeping)
            if task.waits == waits:
                self.go_on(task, False)

    def go_on(self, task, got):
        """Let a task go on that waits."""
        if task.lock is not None:
            task.lock.waiting.remove(task)
            task.lock = None
        task.waits += 1
        task.got = got
        self.ready.append(task)

    def advance(self, time):
        """Let time go by up to a time, or to a change of a watched input."""
        while self.now < time and not self.ready:
            until = min(time, self.timers[0][0]) if self.timers else time
            if self.watched or until >= NEVER:
                self.told(self.ask(f"s {self.now} {until} {self.watched:x}\n"))
            else:
                self.now = max(self.now, until)
                if self.now >= self.sync:
                    self.look()
            self.due()

    def switch(self):
        """Give the turn to the task that is next, and come back when it is this one's again."""
        me = self.task
        while not self.ready:
            self.advance(self.sleeping[0][0] if self.sleeping else NEVER)
            self.wake()
        self.task = self.ready.popleft()
        self.since = self.now
        if self.task is not me:
            self.task.turn.release()
            me.turn.acquire()

    def wait(self, until):
        """Wait up to a time, or until another task lets this one go on; tells whether one did."""
        me = self.task
        me.got = False
        self.did = self.now
        if until < NEVER:
            self.count += 1
            heapq.heappush(self.sleeping, (until, self.count, me, me.waits))
        self.switch()
        self.did = self.now
        return me.got

    def sleep(self, time):
        self.wait(self.now + max(0, time))

    def begin(self, function, args, kwargs):
        """Start a thread."""
        self.tasks += 1
        task = Task(self.tasks)

        def run():
            begun.release()
            task.turn.acquire()
            try:
                function(*args, **kwargs)
            except SystemExit:
                pass
            except BaseException as e:  # threading has its own way; this is one of _thread
                self.failed(e)
            for lock in task.sentinels:
                if lock.locked():
                    lock.release()
            self.over()

        begun = _lock()
        begun.acquire()
        _start(run, ())
        begun.acquire()
        self.ready.append(task)
        return task.number

    def over(self):
        """End the running thread."""
        while not self.ready:
            self.advance(self.sleeping[0][0] if self.sleeping else NEVER)
            self.wake()
        self.task = self.ready.popleft()
        self.since = self.now
        self.task.turn.release()

    def failed(self, error):
        """Tell of an exception that nobody caught."""


class Lock:
    """A lock under simulated time."""

    board = None

    def __init__(self):
        self.taken = False
        self.waiting = collections.deque()

    def acquire(self, blocking=True, timeout=-1):
        if not self.taken:
            self.taken = True
            return True
        if not blocking or timeout == 0:
            return False
        board = self.board
        board.task.lock = self
        self.waiting.append(board.task)
        return board.wait(NEVER if timeout < 0 else board.now + int(timeout * 1e9))

    def release(self):
        if not self.taken:
            raise RuntimeError("release unlocked lock")
        if self.waiting:
            self.board.go_on(self.waiting[0], True)  # it is handed over
        else:
            self.taken = False

    def locked(self):
        return self.taken

    def _at_fork_reinit(self):
        self.__init__()

    def __enter__(self):
        self.acquire()
        return True

    def __exit__(self, *args):
        self.release()

    acquire_lock, release_lock, locked_lock = acquire, release, locked
