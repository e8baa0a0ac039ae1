"""Puts simulated time, threads and chance in the place of the machine's own, before anything else is imported."""
import _thread
import builtins
import importlib.util
import os
import sys
import time as real
import types

from surroundings.board import NEVER, Lock

# Monday, 2 March 2026, 8:00: when every script is started.
BEGIN = 1_772_438_400


def threads(board):
    Lock.board = board

    def sentinel():
        lock = Lock()
        board.task.sentinels.append(lock)
        return lock

    _thread.allocate_lock = _thread.allocate = Lock
    _thread.LockType = Lock
    _thread.start_new_thread = _thread.start_new = lambda f, args, kwargs={}: board.begin(f, args, kwargs)
    _thread.get_ident = _thread.get_native_id = lambda: board.task.number
    _thread._set_sentinel = sentinel
    del _thread.RLock  # threading then makes its own, of locks
    sys.modules["_queue"] = None  # and queue, too


def clock(board):
    time = types.ModuleType("time", real.__doc__)
    time.__dict__.update({k: v for k, v in vars(real).items() if not k.startswith("__")})

    def ns():
        board.spend(board.cost // 4)
        board.ask_seldom()
        return board.now

    def sleep(seconds):
        if seconds < 0:
            raise ValueError("sleep length must be non-negative")
        board.sleep(int(seconds * 1_000_000_000))

    time.sleep = sleep
    time.time_ns = lambda: BEGIN * 1_000_000_000 + ns()
    time.time = lambda: BEGIN + ns() / 1e9
    for name in ("monotonic", "perf_counter", "process_time", "thread_time"):
        setattr(time, name, lambda: ns() / 1e9)
        setattr(time, name + "_ns", ns)
    time.gmtime = lambda t=None: real.gmtime(time.time() if t is None else t)
    time.localtime = lambda t=None: real.gmtime(time.time() if t is None else t)
    time.ctime = lambda t=None: real.asctime(time.localtime(t))
    time.asctime = lambda t=None: real.asctime(time.localtime() if t is None else t)
    time.strftime = lambda form, t=None: real.strftime(form, time.localtime() if t is None else t)
    time.tzname, time.timezone, time.altzone, time.daylight = ("UTC", "UTC"), 0, 0, 0
    sys.modules["time"] = time
    return time


def micro(board, time, files):
    """A microcontroller's board: its own names for time, and no modules but those that it has."""
    most = 1 << 30  # ticks go round, as they do there
    small = types.ModuleType("time")
    for name in ("sleep", "time", "time_ns", "localtime", "gmtime", "mktime"):
        setattr(small, name, getattr(time, name))
    small.sleep_ms = lambda ms: board.sleep(int(ms) * 1_000_000)
    small.sleep_us = lambda us: board.sleep(int(us) * 1_000)
    small.ticks_ms = lambda: time.monotonic_ns() // 1_000_000 % most
    small.ticks_us = small.ticks_cpu = lambda: time.monotonic_ns() // 1_000 % most
    small.ticks_add = lambda ticks, delta: (ticks + delta) % most
    small.ticks_diff = lambda a, b: (a - b + most // 2) % most - most // 2
    own = {"time": small, "utime": small}
    has = {"machine", "micropython", "dht", "math", "cmath", "random", "sys", "os", "gc", "json", "re", "struct", "array", "collections",
           "io", "errno", "binascii", "hashlib", "asyncio", "_thread", "builtins", "heapq", "select"}
    plain = builtins.__import__

    def load(name, globals=None, locals=None, fromlist=(), level=0):
        if not globals or globals.get("__file__") not in files or level:
            return plain(name, globals, locals, fromlist, level)
        first = name.partition(".")[0]
        if first in own:
            return own[first]
        if first[:1] == "u" and first[1:] in has:
            return plain(first[1:], globals, locals, fromlist, level)
        if first in has or any(f == first + ".py" or f.startswith(first + "/") for f in files):
            return plain(name, globals, locals, fromlist, level)
        raise ImportError(f"no module named '{name}' on this board")

    builtins.__import__ = load

    def tasks(module):
        module.sleep_ms = lambda ms: module.sleep(ms / 1000)

    return {"asyncio": tasks}


class After:
    """Changes modules when a script imports them."""

    def __init__(self, changes):
        self.changes = changes

    def find_spec(self, name, path=None, target=None):
        change = self.changes.pop(name, None)
        if change is None:
            return None
        spec = importlib.util.find_spec(name)
        load = spec.loader.exec_module

        def changed(module):
            load(module)
            change(module)

        spec.loader = types.SimpleNamespace(create_module=spec.loader.create_module, exec_module=changed)
        return spec


def dates(time):
    def change(datetime):
        class Date(datetime.date):
            @classmethod
            def today(cls):
                return cls.fromtimestamp(time.time())

        class DateTime(datetime.datetime):
            @classmethod
            def now(cls, tz=None):
                return cls.fromtimestamp(time.time(), tz or datetime.timezone.utc).replace(tzinfo=tz)

            @classmethod
            def utcnow(cls):
                return cls.now()

            today = utcnow

        datetime.date, datetime.datetime = Date, DateTime

    return change


def chance(seed):
    state = [seed or 1]

    def urandom(n):
        out = bytearray()
        for _ in range(n):
            state[0] = (state[0] * 6364136223846793005 + 1442695040888963407) & (1 << 64) - 1
            out.append(state[0] >> 56)
        return bytes(out)

    os.urandom = urandom

    def change(random):
        random._urandom = urandom
        random.seed(seed)

    return change


def waiting(board):
    """What waits for files and signals waits under simulated time; it gives what is done to modules for that."""

    def selectors(module):
        class Selector(module.SelectSelector):
            def __init__(self):
                super().__init__()
                self.bell = Lock()
                self.bell.acquire()

            def select(self, timeout=None):
                found = super().select(0)
                if not found:
                    self.bell.acquire(timeout=-1 if timeout is None else max(0, timeout))
                    found = super().select(0)
                return found

        for name in ("DefaultSelector", "EpollSelector", "PollSelector", "SelectSelector"):
            setattr(module, name, Selector)

    def signal(module):
        module.pause = lambda: board.wait(NEVER)

    def events(module):
        """Loops of events have no pipe to themselves: a bell ends their wait."""

        def ring(loop):
            bell = loop._selector.bell
            if bell.locked():
                bell.release()

        loop = module.BaseSelectorEventLoop
        loop._make_self_pipe = loop._close_self_pipe = lambda self: None
        loop._write_to_self = ring

    return {"selectors": selectors, "signal": signal, "asyncio.selector_events": events}
