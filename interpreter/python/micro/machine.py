"""The pins, clocks and buses of the microcontroller board, by the documented calls of the module of this name."""
import builtins

from surroundings import buses, events

_board = builtins.__board__
_worker = events.Worker()
_handlers = {}  # by pin: (what calls it, edges, Pin)
_pulses = {}  # by pin
LED = 25


def _spend():
    _board.spend(_board.pin_cost)


def _number(pin):
    if isinstance(pin, Pin):
        return pin.number
    if pin == "LED":
        return LED
    if isinstance(pin, str) and pin.upper().startswith("GP"):
        digits = pin.upper().removeprefix("GPIO").removeprefix("GP")
        if digits.isdigit():
            pin = int(digits)
    if not isinstance(pin, int) or not 0 <= pin <= 29:
        raise ValueError(f"there is no pin {pin!r}: they are 0 to 29, or \"LED\"")
    return pin


def _changed(pins):
    for number, (handler, trigger, pin) in sorted(_handlers.items()):
        if pins >> number & 1:
            edge = Pin.IRQ_RISING if _board.levels >> number & 1 else Pin.IRQ_FALLING
            if trigger & edge:
                pin._flags = edge
                _worker.give(handler, pin)


class Pin:
    IN, OUT, OPEN_DRAIN, ALT = 0, 1, 2, 3
    PULL_UP, PULL_DOWN = 1, 2
    IRQ_FALLING, IRQ_RISING, IRQ_LOW_LEVEL, IRQ_HIGH_LEVEL = 4, 8, 1, 2

    def __init__(self, id, mode=-1, pull=-1, *, value=None, alt=-1):
        self.number = _number(id)
        self.mode, self.level, self._flags = Pin.IN, 0, 0
        if mode != -1 or value is not None or pull != -1:
            self.init(mode, pull, value=value)

    def init(self, mode=-1, pull=-1, *, value=None, alt=-1):
        _spend()
        line = _board.line()
        pulses = _pulses.pop(self.number, None)
        if pulses:
            pulses.stop()
        if mode != -1:
            self.mode = mode
        if value is not None:
            self.level = int(bool(value))
        if self.mode == Pin.OUT:
            _board.write(self.number, self.level, line)
        elif self.mode == Pin.OPEN_DRAIN:
            self._let(line)
        else:
            _board.write(self.number, {Pin.PULL_UP: "u", Pin.PULL_DOWN: "d"}.get(pull, "z"), line)
            _board.say(f"i {_board.now} {self.number}\n")

    def _let(self, line):
        _board.write(self.number, "u" if self.level else 0, line)

    def value(self, *x):
        _spend()
        if not x:
            if self.mode == Pin.OUT:
                return self.level
            return _board.read(self.number)
        self.level = int(bool(x[0]))
        if self.mode == Pin.OUT:
            _board.write(self.number, self.level, _board.line())
        elif self.mode == Pin.OPEN_DRAIN:
            self._let(_board.line())
        return None

    __call__ = value

    def on(self):
        self.value(1)

    def off(self):
        self.value(0)

    high, low = on, off

    def toggle(self):
        self.value(not self.level)

    def irq(self, handler=None, trigger=12, hard=False, *args, **kwargs):
        _spend()
        if handler is None:
            _handlers.pop(self.number, None)
        else:
            _handlers[self.number] = (handler, trigger, self)
        _board.watch("irq", sum(1 << n for n in _handlers), _changed)
        return self

    def flags(self):
        return self._flags

    def __repr__(self):
        return f"Pin(GPIO{self.number}, mode={('IN', 'OUT', 'OPEN_DRAIN', 'ALT')[self.mode]})"


class Signal:
    def __init__(self, pin, *args, invert=False, **kwargs):
        self.pin = pin if isinstance(pin, Pin) else Pin(pin, *args, **kwargs)
        self.invert = invert

    def value(self, *x):
        if x:
            return self.pin.value(bool(x[0]) != self.invert)
        return int(bool(self.pin.value()) != self.invert)

    __call__ = value

    def on(self):
        self.value(1)

    def off(self):
        self.value(0)


class PWM:
    def __init__(self, pin, *, freq=None, duty_u16=None, duty_ns=None):
        self.number = _number(pin)
        _spend()
        self.pulses = _pulses.get(self.number) or events.Pulses(_board, self.number)
        _pulses[self.number] = self.pulses
        self.share = 0  # of 65535
        self.init(freq=freq, duty_u16=duty_u16, duty_ns=duty_ns)

    def init(self, *, freq=None, duty_u16=None, duty_ns=None):
        if freq is not None:
            self.freq(freq)
        if duty_u16 is not None:
            self.duty_u16(duty_u16)
        if duty_ns is not None:
            self.duty_ns(duty_ns)

    def freq(self, *hertz):
        if not hertz:
            return round(1e9 / self.pulses.period)
        if not 8 <= hertz[0] <= 62_500_000:
            raise ValueError("a frequency is from 8 Hz to 62.5 MHz")
        _spend()
        self.pulses.period = max(1000, int(1e9 / hertz[0]))
        self._set()

    def duty_u16(self, *share):
        if not share:
            return self.share
        _spend()
        self.share = max(0, min(65535, int(share[0])))
        self._set()

    def duty_ns(self, *time):
        if not time:
            return self.pulses.on
        _spend()
        self.share = min(65535, time[0] * 65535 // self.pulses.period)
        self.pulses.on = time[0]
        self.pulses.start(_board.line())

    def _set(self):
        self.pulses.on = self.pulses.period if self.share == 65535 else self.pulses.period * self.share // 65536
        self.pulses.start(_board.line())

    def deinit(self):
        self.pulses.stop()
        _pulses.pop(self.number, None)
        _board.write(self.number, 0, _board.line())


class ADC:
    CORE_TEMP = 4

    def __init__(self, pin):
        if isinstance(pin, int) and 0 <= pin <= 4:
            self.channel = pin
        else:
            number = _number(pin)
            if not 26 <= number <= 29:
                raise ValueError(f"GPIO{number} has no converter: GPIO26 to GPIO29 have")
            self.channel = number - 26

    def read_u16(self):
        _spend()
        if self.channel == 4:
            return 14_071  # 27 °C
        raw = max(0, min(4095, _board.voltage(26 + self.channel) * 4096 // 3_300_000))
        return raw << 4 | raw >> 8

    def read_uv(self):
        return self.read_u16() * 3_300_000 // 65535


class Timer:
    ONE_SHOT, PERIODIC = 0, 1

    def __init__(self, id=-1, **kwargs):
        self.run = None
        if kwargs:
            self.init(**kwargs)

    def init(self, *, mode=1, freq=-1, period=-1, callback=None, tick_hz=1000, hard=False):
        self.deinit()
        time = int(1e9 / freq) if freq > 0 else int(period * 1_000_000_000 // tick_hz)
        if time <= 0:
            raise ValueError("a timer has a freq or a period")
        self.run = run = object()

        def due(now):
            if self.run is not run:
                return None
            if callback:
                _worker.give(callback, self)
            return now + time if mode == Timer.PERIODIC else None

        _board.at(_board.now + time, due)

    def deinit(self):
        self.run = None


def _wait(time):
    _board.sleep(time)


class SoftI2C:
    """A bus of two lines."""

    def __init__(self, scl, sda, *, freq=400_000, timeout=50_000):
        _spend()
        self.bus = buses.TwoWire(_board, _number(scl), _number(sda), freq)

    def init(self, scl=None, sda=None, *, freq=400_000):
        self.__init__(self.bus.scl if scl is None else scl, self.bus.sda if sda is None else sda, freq=freq)

    def deinit(self):
        pass

    # The parts of a transfer, one by one.

    def start(self):
        self.bus.transfer("S")

    def stop(self):
        self.bus.transfer("P")

    def write(self, buf):
        return self.bus.transfer("w" + bytes(buf).hex())[0]

    def readinto(self, buf, nack=True):
        buf[:] = self.bus.transfer(f"r{len(buf)}")[1]

    # Whole transfers.

    @staticmethod
    def _answered(result, address):
        if result is None:
            raise OSError(5, "nobody answers at 0x%02x" % address)
        return result

    def writeto(self, addr, buf, stop=True):
        return self._answered(self.bus.write(addr, bytes(buf), stop), addr)

    def writevto(self, addr, vector, stop=True):
        return self.writeto(addr, b"".join(bytes(v) for v in vector), stop)

    def readfrom(self, addr, nbytes, stop=True):
        return self._answered(self.bus.read(addr, nbytes, None, stop), addr)

    def readfrom_into(self, addr, buf, stop=True):
        buf[:] = self.readfrom(addr, len(buf), stop)

    def writeto_mem(self, addr, memaddr, buf, *, addrsize=8):
        self.writeto(addr, memaddr.to_bytes(addrsize // 8, "big") + bytes(buf))

    def readfrom_mem(self, addr, memaddr, nbytes, *, addrsize=8):
        return self._answered(self.bus.read(addr, nbytes, memaddr.to_bytes(addrsize // 8, "big")), addr)

    def readfrom_mem_into(self, addr, memaddr, buf, *, addrsize=8):
        buf[:] = self.readfrom_mem(addr, memaddr, len(buf), addrsize=addrsize)

    def scan(self):
        return [address for address in range(8, 120) if self.bus.answers(address)]


class I2C(SoftI2C):
    def __init__(self, id, *, scl=None, sda=None, freq=400_000, timeout=50_000):
        if id not in (0, 1):
            raise ValueError("the buses are 0 and 1")
        scl = (9, 7)[id] if scl is None else scl
        sda = (8, 6)[id] if sda is None else sda
        for pin, name, rest in ((sda, "SDA", 0), (scl, "SCL", 1)):
            if _number(pin) % 4 != 2 * id + rest:
                raise ValueError(f"GPIO{_number(pin)} cannot be {name} of I2C{id}")
        super().__init__(scl, sda, freq=freq)


class SoftSPI:
    MSB, LSB = 0, 1

    def __init__(self, baudrate=500_000, *, polarity=0, phase=0, bits=8, firstbit=0, sck=None, mosi=None, miso=None):
        _spend()
        sck = Pin(sck, Pin.OUT, value=polarity)
        self.mosi = None if mosi is None else Pin(mosi, Pin.OUT)
        self.miso = None if miso is None else Pin(miso, Pin.IN)
        self.bus = buses.Clocked(_board, sck.number, self.mosi and self.mosi.number, self.miso and self.miso.number)
        self.setting = dict(baudrate=baudrate, polarity=polarity, phase=phase, firstbit=firstbit)
        self.init()

    def init(self, baudrate=None, *, polarity=None, phase=None, bits=8, firstbit=None, sck=None, mosi=None, miso=None):
        given = dict(baudrate=baudrate, polarity=polarity, phase=phase, firstbit=firstbit)
        self.setting.update({name: value for name, value in given.items() if value is not None})
        now = self.setting
        if now["baudrate"] <= 0:
            raise ValueError("a baudrate is above 0")
        self.bus.set(now["baudrate"], bool(now["phase"]) + 2 * bool(now["polarity"]), now["firstbit"] == SoftSPI.LSB)
        _board.write(self.bus.clock, int(bool(now["polarity"])), _board.line())

    def _pass(self, data):
        _spend()
        return b"".join(self.bus.transfer(data[at:at + self.bus.MOST]) for at in range(0, len(data), self.bus.MOST))

    def write(self, buf):
        self._pass(bytes(buf))

    def read(self, nbytes, write=0):
        return self._pass(bytes([write]) * nbytes)

    def readinto(self, buf, write=0):
        buf[:] = self.read(len(buf), write)

    def write_readinto(self, out, into):
        into[:] = self._pass(bytes(out))

    def deinit(self):
        pass


class SPI(SoftSPI):
    def __init__(self, id, baudrate=1_000_000, *, polarity=0, phase=0, bits=8, firstbit=0, sck=None, mosi=None, miso=None):
        if id not in (0, 1):
            raise ValueError("the buses are 0 and 1")
        sck = (18, 10)[id] if sck is None else sck
        mosi = (19, 11)[id] if mosi is None else mosi
        lines = [(sck, "SCK", 2), (mosi, "MOSI", 3)] + ([] if miso is None else [(miso, "MISO", 0)])
        for pin, name, rest in lines:
            if _number(pin) % 4 != rest or _number(pin) // 8 % 2 != id:
                raise ValueError(f"GPIO{_number(pin)} cannot be {name} of SPI{id}")
        super().__init__(baudrate, polarity=polarity, phase=phase, bits=bits, firstbit=firstbit, sck=sck, mosi=mosi, miso=miso)


class UART:
    """A serial port."""

    IRQ_RXIDLE = 1
    _at = {0: (0, 1), 1: (4, 5)}

    def __init__(self, id, baudrate=115_200, bits=8, parity=None, stop=1, *, tx=None, rx=None, **more):
        if id not in (0, 1):
            raise ValueError("the ports are 0 and 1")
        self.id, self.handler = id, None
        self.setting = dict(baudrate=baudrate, bits=bits, parity=parity, stop=stop, tx=UART._at[id][0] if tx is None else tx,
                            rx=UART._at[id][1] if rx is None else rx, timeout=0, timeout_char=2, txbuf=256, rxbuf=256)
        self.init(**more)

    def init(self, baudrate=None, bits=None, parity=-1, stop=None, **more):
        given = dict(baudrate=baudrate, bits=bits, stop=stop, **more)
        now = self.setting
        for name, value in given.items():
            if name not in now and name not in ("invert", "flow", "cts", "rts"):
                raise TypeError(f"extra keyword argument: {name}")
            if value is not None:
                now[name] = value
        if parity != -1:
            now["parity"] = parity
        tx, rx = _number(now["tx"]), _number(now["rx"])
        for pin, name, rest in ((tx, "TX", 0), (rx, "RX", 1)):
            if pin % 4 != rest or (pin + 4) // 8 % 2 != self.id:
                raise ValueError(f"GPIO{pin} cannot be {name} of UART{self.id}")
        if now["baudrate"] <= 0 or now["bits"] not in (5, 6, 7, 8) or now["stop"] not in (1, 2):
            raise ValueError("a port has a baudrate above 0, 5 to 8 bits and 1 or 2 stop bits")
        _spend()
        parity = "n" if now["parity"] is None else "o" if now["parity"] else "e"
        bit = max(1, round(1e9 / now["baudrate"]))
        channel = 1 + self.id
        _board.say(f"p {_board.now} {channel} {tx} {rx} {bit} {now['bits']}{parity}{now['stop']}\n")
        length = 1 + now["bits"] + (parity != "n") + now["stop"]
        self.port = buses.Port(_board, channel, rx, bit, length, self._came, now["rxbuf"])

    def _came(self, data):
        if self.handler:
            _worker.give(self.handler, self)

    def irq(self, handler=None, trigger=1, hard=False):
        self.handler = handler
        return self

    def any(self):
        _spend()
        if _board.now >= _board.horizon:
            _board.look()
        return len(self.port.data)

    def _up_to(self, count):
        """Wait for as much, each as long as its time out allows."""
        end = _board.now + self.setting["timeout"] * 1_000_000
        while len(self.port.data) < count and self.port.wait(end):
            end = _board.now + max(self.setting["timeout_char"] * 1_000_000, 2 * self.port.time)
        return len(self.port.data)

    def _got(self, count):
        data = bytes(self.port.data[:count])
        del self.port.data[:count]
        return data or None

    def read(self, nbytes=None):
        self.any()
        self._up_to(1 << 16 if nbytes is None else nbytes)
        return self._got(1 << 16 if nbytes is None else nbytes)

    def readinto(self, buf, nbytes=None):
        data = self.read(len(buf) if nbytes is None else min(nbytes, len(buf)))
        if data is None:
            return None
        buf[:len(data)] = data
        return len(data)

    def readline(self):
        self.any()
        count = 1
        while count <= self._up_to(count) and self.port.data[count - 1] != 10:
            count += 1
        return self._got(count)

    def write(self, buf):
        data = buf.encode() if isinstance(buf, str) else bytes(buf)
        _spend()
        self.port.send(data, self.setting["txbuf"])
        return len(data)

    def flush(self):
        _board.sleep(self.port.sent - _board.now)

    def txdone(self):
        _spend()
        return _board.now >= self.port.sent

    def deinit(self):
        pass


def time_pulse_us(pin, level, timeout_us=1_000_000):
    number = _number(pin)

    def until(state):
        end = _board.now + timeout_us * 1000
        while _board.read(number) != state:
            if _board.now >= end:
                return False
            _board.now = min(end, max(_board.now + 1000, _board.horizon))  # before that nothing changes
            _board.spend(0)
        return True

    if not until(int(bool(level))):
        return -2
    begin = _board.now
    if not until(int(not level)):
        return -1
    return (_board.now - begin) // 1000


def freq(*hertz):
    return 125_000_000


def unique_id():
    return b"\x00\x01\x02\x03\x04\x05\x06\x07"


def disable_irq():
    return 1


def enable_irq(state=1):
    pass


def idle():
    _board.spend(1_000_000)


def lightsleep(ms=None):
    _wait(int(ms * 1_000_000) if ms is not None else 1 << 52)


def reset():
    raise SystemExit


soft_reset = reset
