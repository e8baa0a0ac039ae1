"""Buses and serial ports, whose hardware works while the script goes on. See core/machine/scripted for what is said."""
FIRST, MOST = 4, 12  # channels of buses: 0 is the console's, 1 to 3 are for ports
_locks = {}  # of those that are in use, by their lines, in the order of their channels


class Hardware:
    """A channel of the board, the same one for the same lines."""

    def __init__(self, board, lines):
        from _thread import allocate_lock

        self.board, self.lines = board, " ".join("-" if pin is None else str(pin) for pin in lines)
        if self.lines not in _locks and len(_locks) == MOST:
            raise OSError("there are too many buses")
        self.lock = _locks.setdefault(self.lines, allocate_lock())
        self.channel = FIRST + list(_locks).index(self.lines)

    def carry_out(self, kind, setting, what):
        """Have a transfer on the lines carried out; how many bytes were acknowledged, and those that came."""
        board, line = self.board, self.board.line()
        with self.lock:
            board.due()
            end = int(board.ask(f"{kind} {board.now} {self.channel} {self.lines} {setting} {line} {what}\n")[0])
            board.sleep(end - board.now)
            acknowledged, data = board.ask(f"f {board.now} {self.channel}\n")
        return int(acknowledged), bytes.fromhex(data[:-1])


class TwoWire(Hardware):
    """A master on two lines that are let go or pulled low."""

    def __init__(self, board, scl, sda, frequency):
        super().__init__(board, (scl, sda))
        self.scl, self.sda, self.half = scl, sda, max(100, int(5e8 / frequency))
        line = board.line()
        for pin in (sda, scl):
            board.write(pin, "u", line)

    def transfer(self, *words):
        return self.carry_out("c", self.half, ",".join(words))

    def write(self, address, data, stop=True):
        """Write, and give how many bytes were acknowledged; None where nobody answers."""
        done, _ = self.transfer("S", f"w{address << 1:02x}{bytes(data).hex()}", *["P"] * stop)
        if not done and not stop:
            self.transfer("P")
        return done - 1 if done else None

    def read(self, address, count, before=None, stop=True):
        """Read, perhaps after having written; None where nobody answers."""
        words = [] if before is None else ["S", f"w{address << 1:02x}{bytes(before).hex()}"]
        done, data = self.transfer(*words, "S", f"w{address << 1 | 1:02x}", f"r{count}", *["P"] * stop)
        return data if done == (1 if before is None else 2 + len(before)) else None

    def answers(self, address):
        return self.transfer("S", f"w{address << 1:02x}", "P")[0] > 0


class Clocked(Hardware):
    """A master with a clock line. Lines are pins, or None."""

    MOST = 4096

    def __init__(self, board, clock, out, into, select=None):
        super().__init__(board, (clock, out, into, select))
        self.clock = clock
        self.set(1_000_000, 0, False)

    def set(self, frequency, mode, low_first):
        self.half = max(20, int(5e8 / frequency))
        self.bits = mode + (4 if low_first else 0)
        self.low_first = low_first

    def transfer(self, data):
        _, into = self.carry_out("y", f"{self.half} {self.bits}", bytes(data).hex())
        if self.low_first:
            into = bytes(int(f"{b:08b}"[::-1], 2) for b in into)
        return into or bytes(len(data))


class Port:
    """An asynchronous line. What comes in is kept until it is read."""

    def __init__(self, board, channel, rx, bit, length, came, room=1 << 16):
        self.board, self.channel, self.came, self.room = board, channel, came, room
        self.time = bit * length  # of a character, in ns
        self.data = bytearray()
        self.awaited = False
        self.waiting = []  # tasks
        self.sent = 0  # when all has been sent
        board.watch(("port", channel), 1 << rx, self.changed)

    def changed(self, pins):
        if not self.awaited:
            self.awaited = True
            self.board.at(self.board.now + self.time, self.look)

    def look(self, now):
        self.awaited = False
        self.take()
        return None

    def take(self):
        data = bytes.fromhex(self.board.ask(f"r {self.board.now} {self.channel}\n")[0][:-1])
        if data:
            self.data += data[:max(0, self.room - len(self.data))]
            self.came(data)
            waiting, self.waiting = self.waiting, []
            for task, waits in waiting:
                if task.waits == waits:
                    self.board.go_on(task, True)

    def wait(self, until):
        """Wait for more, up to a time; tells whether there is."""
        task = self.board.task
        self.waiting.append((task, task.waits))
        return self.board.wait(until)

    def send(self, data, room):
        """Send, and wait while more than room waits to be sent."""
        board, line = self.board, self.board.line()
        for at in range(0, len(data), 256):
            board.due()
            self.sent = int(board.ask(f"t {board.now} {self.channel} {line} {data[at:at + 256].hex()}\n")[0])
            late = self.sent - board.now - room * self.time
            if late > 0:
                board.sleep(late)
