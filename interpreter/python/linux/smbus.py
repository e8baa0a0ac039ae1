"""Two-wire buses of the Linux board, by the documented calls of the module of this name. The bus 1 is on GPIO2 and GPIO3."""
import builtins

from surroundings import buses

_board = builtins.__board__
_masters = {}


def _master(bus):
    if isinstance(bus, str):
        bus = bus.removeprefix("/dev/i2c-")
    try:
        scl, sda = {0: (1, 0), 1: (3, 2)}[int(bus)]
    except (KeyError, ValueError):
        raise FileNotFoundError(2, f"No such file or directory: '/dev/i2c-{bus}'") from None
    if bus not in _masters:
        _masters[bus] = buses.TwoWire(_board, scl, sda, 100_000)
    return _masters[bus]


class SMBus:
    def __init__(self, bus=None, force=False):
        self.bus, self.pec = None, 0
        if bus is not None:
            self.open(bus)

    def open(self, bus):
        self.bus = _master(bus)

    def close(self):
        self.bus = None

    def __enter__(self):
        return self

    def __exit__(self, *args):
        self.close()

    def _checked(self, address, result):
        if result is None:
            raise OSError(121, "Remote I/O error (nobody answers at 0x%02x)" % address)
        return result

    def _call(self, address, *numbers):
        _board.spend(_board.pin_cost)
        if self.bus is None:
            raise OSError(9, "Bad file descriptor (the bus is not open)")
        if not 3 <= address <= 0x77:
            raise OverflowError("an address is from 0x03 to 0x77")
        for number in numbers:
            if not isinstance(number, int):
                raise TypeError(f"an integer is required, not {number!r}")
        return [number & 0xFF for number in numbers]

    def _write(self, address, *numbers):
        data = bytes(self._call(address, *numbers))
        if self._checked(address, self.bus.write(address, data)) < len(data):
            raise OSError(121, "Remote I/O error (0x%02x did not take every byte)" % address)

    def _read(self, address, count, *before):
        before = bytes(self._call(address, *before))
        return list(self._checked(address, self.bus.read(address, count, before or None)))

    def write_quick(self, i2c_addr, force=None):
        self._write(i2c_addr)

    def read_byte(self, i2c_addr, force=None):
        return self._read(i2c_addr, 1)[0]

    def write_byte(self, i2c_addr, value, force=None):
        self._write(i2c_addr, value)

    def read_byte_data(self, i2c_addr, register, force=None):
        return self._read(i2c_addr, 1, register)[0]

    def write_byte_data(self, i2c_addr, register, value, force=None):
        self._write(i2c_addr, register, value)

    def read_word_data(self, i2c_addr, register, force=None):
        low, high = self._read(i2c_addr, 2, register)
        return low | high << 8

    def write_word_data(self, i2c_addr, register, value, force=None):
        self._write(i2c_addr, register, value, value >> 8)

    def process_call(self, i2c_addr, register, value, force=None):
        low, high = self._read(i2c_addr, 2, register, value, value >> 8)
        return low | high << 8

    def read_i2c_block_data(self, i2c_addr, register, length=32, force=None):
        return self._read(i2c_addr, self._block(length), register)

    def write_i2c_block_data(self, i2c_addr, register, data, force=None):
        self._block(len(data))
        self._write(i2c_addr, register, *data)

    def write_block_data(self, i2c_addr, register, data, force=None):
        self._write(i2c_addr, register, self._block(len(data)), *data)

    def read_block_data(self, i2c_addr, register, force=None):
        data = self._read(i2c_addr, 33, register)
        return data[1:1 + min(32, data[0])]

    @staticmethod
    def _block(length):
        if not 0 < length <= 32:
            raise OverflowError("a block has 1 to 32 bytes")
        return length
