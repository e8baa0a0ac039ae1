"""The module smbus with transfers of any length, by the documented calls of the module of this name."""
from smbus import SMBus as _SMBus


class i2c_msg:
    def __init__(self, address, buf, reading):
        self.addr, self.buf, self.reading = address, bytes(buf), reading

    @classmethod
    def read(cls, address, length):
        return cls(address, length, True)

    @classmethod
    def write(cls, address, buf):
        return cls(address, buf.encode() if isinstance(buf, str) else buf, False)

    def __iter__(self):
        return iter(self.buf)

    def __len__(self):
        return len(self.buf)

    def __bytes__(self):
        return self.buf


class SMBus(_SMBus):
    def i2c_rdwr(self, *messages):
        for i, message in enumerate(messages):
            self._call(message.addr)
            last = i == len(messages) - 1
            if message.reading:
                message.buf = self._checked(message.addr, self.bus.read(message.addr, len(message.buf), None, last))
            else:
                self._checked(message.addr, self.bus.write(message.addr, message.buf, last))
