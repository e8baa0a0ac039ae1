"""The humidity sensors DHT11 and DHT22, by the documented calls of the module of this name."""
import builtins

from machine import Pin, time_pulse_us

_board = builtins.__board__


class DHTBase:
    def __init__(self, pin):
        self.pin, self.buf = pin, bytearray(5)

    def measure(self):
        pin = self.pin
        pin.init(Pin.OUT, value=0)
        _board.sleep(18_000_000)
        pin.init(Pin.IN, Pin.PULL_UP)
        for _ in range(2):  # it is high until the answer, which is low and high for 80 µs each
            if time_pulse_us(pin, 1, 200) < 0:
                raise OSError(110, "the sensor does not answer")
        for i in range(40):
            long = time_pulse_us(pin, 1, 200)
            if long < 0:
                raise OSError(110, "the sensor stopped in the middle")
            self.buf[i // 8] = self.buf[i // 8] << 1 & 0xFF | (long > 50)
        if sum(self.buf[:4]) & 0xFF != self.buf[4]:
            raise Exception("checksum error")


class DHT11(DHTBase):
    def humidity(self):
        return self.buf[0]

    def temperature(self):
        return self.buf[2]


class DHT22(DHTBase):
    def humidity(self):
        return (self.buf[0] << 8 | self.buf[1]) * 0.1

    def temperature(self):
        t = ((self.buf[2] & 0x7F) << 8 | self.buf[3]) * 0.1
        return -t if self.buf[2] & 0x80 else t
