"""Pins of the Linux board, by the documented calls of the module that scripts import under this name."""
import builtins

from surroundings import events

BCM, BOARD = 11, 10
OUT, IN = 0, 1
LOW, HIGH = 0, 1
PUD_OFF, PUD_DOWN, PUD_UP = 20, 21, 22
RISING, FALLING, BOTH = 31, 32, 33
UNKNOWN, SERIAL, SPI, I2C, HARD_PWM = -1, 40, 41, 42, 43
VERSION = "0.7.0"
RPI_REVISION = 3
RPI_INFO = {"P1_REVISION": 3, "TYPE": "Linux board", "REVISION": "0", "RAM": "1G", "PROCESSOR": "", "MANUFACTURER": ""}

_board = builtins.__board__
_header = {place: gpio for gpio, place in enumerate(_board.header)}
_others = {1: "3.3 V", 17: "3.3 V", 2: "5 V", 4: "5 V", 6: "ground", 9: "ground", 14: "ground", 20: "ground", 25: "ground",
           30: "ground", 34: "ground", 39: "ground"}
_mode = None
_modes = {}  # by GPIO: OUT or IN
_values = {}  # of outputs
_edges = {}  # by GPIO: [edge, callbacks, bounce in ns, time of the last, whether one has come]
_waits = {}  # by GPIO: locks of wait_for_edge
_pwm = {}
_worker = events.Worker()
_line = lambda: _board.line()


def setwarnings(on):
    pass


def setmode(mode):
    global _mode
    if mode not in (BCM, BOARD):
        raise ValueError("the numbering is GPIO.BCM or GPIO.BOARD")
    if _mode not in (None, mode):
        raise ValueError("another numbering was chosen before")
    if _mode is None:
        _board.say(f"m {_board.now} {'gpio' if mode == BCM else 'header'}\n")
    _mode = mode


def getmode():
    return _mode


def _gpio(channel):
    if _mode is None:
        raise RuntimeError("no numbering is chosen: GPIO.setmode(GPIO.BCM) or GPIO.setmode(GPIO.BOARD) comes first")
    if not isinstance(channel, int):
        raise ValueError(f"a channel is a whole number, not {channel!r}")
    if {"gpio": BCM, "header": BOARD}.get(_board.numbering, _mode) == BCM:
        if not 0 <= channel <= 27:
            raise ValueError(f"there is no GPIO{channel}: they are 0 to 27 (GPIO.BCM)")
        return channel
    if channel in _others:
        raise ValueError(f"pin {channel} of the header is {_others[channel]} (GPIO.BOARD)")
    if channel not in _header:
        raise ValueError(f"the header has no pin {channel} (GPIO.BOARD)")
    return _header[channel]


def _several(channels):
    return list(channels) if isinstance(channels, (list, tuple)) else [channels]


def _spend():
    _board.spend(_board.pin_cost)


def setup(channel, direction, pull_up_down=PUD_OFF, initial=None):
    if direction not in (IN, OUT):
        raise ValueError("a direction is GPIO.IN or GPIO.OUT")
    if direction == OUT and pull_up_down != PUD_OFF:
        raise ValueError("an output has no pull")
    line = _line()
    for one in _several(channel):
        pin = _gpio(one)
        _spend()
        _modes[pin] = direction
        if direction == OUT:
            _values[pin] = int(bool(_values.get(pin, 0) if initial is None or initial == -1 else initial))
            _board.write(pin, _values[pin], line)
        else:
            _values.pop(pin, None)
            _board.write(pin, {PUD_OFF: "z", PUD_UP: "u", PUD_DOWN: "d"}[pull_up_down], line)
            _board.say(f"i {_board.now} {pin}\n")


def output(channel, value):
    channels = _several(channel)
    values = _several(value)
    if len(values) == 1:
        values *= len(channels)
    if len(values) != len(channels):
        raise RuntimeError("there are not as many values as channels")
    line = _line()
    for one, level in zip(channels, values):
        pin = _gpio(one)
        if _modes.get(pin) != OUT:
            raise RuntimeError(f"channel {one} is no output: GPIO.setup({one}, GPIO.OUT) comes first")
        _spend()
        _values[pin] = int(bool(level))
        _board.write(pin, _values[pin], line)


def input(channel):
    pin = _gpio(channel)
    if pin not in _modes:
        raise RuntimeError(f"channel {channel} is not set up: GPIO.setup({channel}, GPIO.IN) comes first")
    _spend()
    if _modes[pin] == OUT:
        return _values[pin]
    return _board.read(pin)


def gpio_function(channel):
    pin = _gpio(channel)
    return _modes.get(pin, IN)


def cleanup(channel=None):
    global _mode
    line = _line()
    for pin in list(_modes) if channel is None else [_gpio(c) for c in _several(channel)]:
        if pin in _pwm:
            _pwm[pin].stop()
        _forget(pin)
        if _modes.pop(pin, None) is not None:
            _values.pop(pin, None)
            _board.write(pin, "z", line)
    if channel is None:
        _mode = None


# Edges.

def _changed(pins):
    for pin in sorted(set(_edges) | set(_waits)):
        if not pins >> pin & 1:
            continue
        level = _board.levels >> pin & 1
        e = _edges.get(pin)
        if e and e[0] in (BOTH, RISING if level else FALLING) and (e[3] < 0 or _board.now - e[3] >= e[2]):
            e[3], e[4] = _board.now, True
            for callback in e[1]:
                _worker.give(callback, e[5])
        for wait in list(_waits.get(pin, [])):
            if wait[0] in (BOTH, RISING if level else FALLING) and (wait[3] is None or _board.now - wait[3] >= wait[2]):
                _waits[pin].remove(wait)
                wait[4] = True
                wait[1].release()


def _watch():
    _board.watch("edges", sum(1 << pin for pin in set(_edges) | {p for p, w in _waits.items() if w}), _changed)


def add_event_detect(channel, edge, callback=None, bouncetime=0):
    pin = _gpio(channel)
    if _modes.get(pin) != IN:
        raise RuntimeError(f"channel {channel} is no input: GPIO.setup({channel}, GPIO.IN) comes first")
    if edge not in (RISING, FALLING, BOTH):
        raise ValueError("an edge is GPIO.RISING, GPIO.FALLING or GPIO.BOTH")
    if pin in _edges:
        raise RuntimeError(f"edges of channel {channel} are looked for already")
    _spend()
    _edges[pin] = [edge, [callback] if callback else [], bouncetime * 1_000_000, -1, False, channel]
    _watch()


def add_event_callback(channel, callback):
    pin = _gpio(channel)
    if pin not in _edges:
        raise RuntimeError(f"no edges of channel {channel} are looked for: GPIO.add_event_detect comes first")
    _edges[pin][1].append(callback)


def _forget(pin):
    if _edges.pop(pin, None) is not None:
        _watch()


def remove_event_detect(channel):
    _forget(_gpio(channel))


def event_detected(channel):
    pin = _gpio(channel)
    _spend()
    _board.read(pin)
    if pin in _edges and _edges[pin][4]:
        _edges[pin][4] = False
        return True
    return False


def wait_for_edge(channel, edge, bouncetime=0, timeout=-1):
    import _thread

    pin = _gpio(channel)
    if _modes.get(pin) != IN:
        raise RuntimeError(f"channel {channel} is no input: GPIO.setup({channel}, GPIO.IN) comes first")
    lock = _thread.allocate_lock()
    lock.acquire()
    wait = [edge, lock, bouncetime * 1_000_000, _board.now if bouncetime > 0 else None, False]
    _waits.setdefault(pin, []).append(wait)
    _watch()
    lock.acquire(timeout=timeout / 1000 if timeout >= 0 else -1)
    if not wait[4]:
        _waits[pin].remove(wait)
    _watch()
    return channel if wait[4] else None


class PWM:
    """Pulses that a thread of the module makes."""

    def __init__(self, channel, frequency):
        self.pin = _gpio(channel)
        if _modes.get(self.pin) != OUT:
            raise RuntimeError(f"channel {channel} is no output: GPIO.setup({channel}, GPIO.OUT) comes first")
        if frequency <= 0:
            raise ValueError("a frequency is above 0")
        if self.pin in _pwm:
            raise RuntimeError(f"channel {channel} has pulses already")
        self.frequency, self.duty = frequency, 0
        self.pulses = events.Pulses(_board, self.pin)
        _pwm[self.pin] = self

    def _set(self):
        self.pulses.period = max(1000, int(1e9 / self.frequency))
        self.pulses.on = int(self.pulses.period * self.duty / 100)

    def start(self, duty):
        self.ChangeDutyCycle(duty)
        self.pulses.start(_line())

    def ChangeDutyCycle(self, duty):
        if not 0 <= duty <= 100:
            raise ValueError("a duty cycle is from 0 to 100")
        self.duty = duty
        self._set()

    def ChangeFrequency(self, frequency):
        if frequency <= 0:
            raise ValueError("a frequency is above 0")
        self.frequency = frequency
        self._set()

    def stop(self):
        self.pulses.stop()
        _pwm.pop(self.pin, None)
        _board.write(self.pin, 0, _line())
