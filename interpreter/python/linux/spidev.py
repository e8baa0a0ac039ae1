"""Buses with a clock line of the Linux board, by the documented calls of the module of this name. The bus 0 is on GPIO11
(clock), GPIO10 (out), GPIO9 (in), and GPIO8 or GPIO7 (select)."""
import builtins

from surroundings import buses

_board = builtins.__board__
_buses = {0: (11, 10, 9, (8, 7)), 1: (21, 20, 19, (18, 17, 16))}
_most = 4096


class SpiDev:
    def __init__(self, bus=None, device=None):
        self._settings = dict(max_speed_hz=125_000_000, mode=0, bits_per_word=8, lsbfirst=False, no_cs=False, cshigh=False,
                              threewire=False, loop=False)
        self._bus = None
        if bus is not None:
            self.open(bus, device)

    def __getattr__(self, name):
        try:
            return self.__dict__["_settings"][name]
        except KeyError:
            raise AttributeError(f"SpiDev has no attribute {name!r}") from None

    def __setattr__(self, name, value):
        if name not in self.__dict__.get("_settings", ()):
            if not name.startswith("_"):
                raise AttributeError(f"SpiDev has no attribute {name!r}")
            object.__setattr__(self, name, value)
            return
        if name in ("lsbfirst", "cshigh", "threewire", "loop") and value:
            raise OSError(22, f"Invalid argument (the board has no {name})")
        if name == "bits_per_word" and value not in (0, 8):
            raise OSError(22, "Invalid argument (words have 8 bits)")
        if name == "mode" and value not in range(4):
            raise TypeError("a mode is from 0 to 3")
        if name == "max_speed_hz" and value <= 0:
            raise OSError(22, "Invalid argument (a speed is above 0)")
        self._settings[name] = value
        if self._bus is not None:
            self._adjust()

    def open(self, bus, device):
        try:
            clock, out, into, select = _buses[bus]
            chosen = select[device]
        except (KeyError, IndexError, TypeError):
            raise FileNotFoundError(2, f"No such file or directory: '/dev/spidev{bus}.{device}'") from None
        line = _board.line()
        for pin, level in [(clock, 0), (out, 0)] + [(pin, 1) for pin in select]:
            _board.write(pin, level, line)
        _board.write(into, "z", line)
        _board.say(f"i {_board.now} {into}\n")
        self._masters = [buses.Clocked(_board, clock, out, into, pin) for pin in (chosen, None)]
        self._bus = clock
        self._adjust()

    def open_path(self, path):
        bus, _, device = path.removeprefix("/dev/spidev").partition(".")
        self.open(int(bus), int(device))

    def _adjust(self):
        for master in self._masters:
            master.set(self.max_speed_hz, self.mode, False)
        _board.write(self._bus, self.mode >> 1, _board.line())

    def close(self):
        self._bus = None

    def __enter__(self):
        return self

    def __exit__(self, *args):
        self.close()

    def fileno(self):
        return 3

    def _pass(self, values):
        if self._bus is None:
            raise OSError(9, "Bad file descriptor (the bus is not open)")
        try:
            data = bytes(values)
        except (TypeError, ValueError):
            raise TypeError("a transfer is a list of bytes, each from 0 to 255") from None
        if not data:
            raise ValueError("a transfer has at least one byte")
        _board.spend(_board.pin_cost)
        return list(self._masters[bool(self.no_cs)].transfer(data))

    def _short(self, values):
        if len(values) > _most:
            raise OverflowError(f"a transfer has at most {_most} bytes")
        return values

    def xfer(self, values, speed_hz=0, delay_usec=0, bits_per_word=0):
        return self._at(speed_hz, self._short(values))

    xfer2 = xfer

    def xfer3(self, values, speed_hz=0, delay_usec=0, bits_per_word=0):
        return tuple(b for at in range(0, len(values), _most) for b in self._at(speed_hz, values[at:at + _most]))

    def _at(self, speed, values):
        before = self.max_speed_hz
        if speed:
            self.max_speed_hz = speed
        try:
            return self._pass(values)
        finally:
            if speed:
                self.max_speed_hz = before

    def writebytes(self, values):
        self._pass(self._short(values))

    def writebytes2(self, values):
        for at in range(0, len(values), _most):
            self._pass(values[at:at + _most])

    def readbytes(self, length):
        return self._pass(self._short([0] * length))
