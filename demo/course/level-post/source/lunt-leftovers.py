"""A class for the display, and a loop that looks at everything ten times a second."""
from machine import ADC, I2C, Pin
from time import sleep_ms, sleep_us, ticks_diff, ticks_ms


class Display:
    E, RS, LIGHT = 4, 1, 8

    def __init__(self, bus, address=0x27):
        self.bus, self.address = bus, address
        sleep_ms(50)
        for nibble in (0x30, 0x30, 0x30, 0x20):
            self.put(nibble)
            sleep_ms(5)
        for command in (0x28, 0x0C, 0x06, 0x01):
            self.send(command, 0)
        sleep_ms(3)

    def put(self, bits):
        bits |= self.LIGHT
        self.bus.writeto(self.address, bytes([bits, bits | self.E, bits]))

    def send(self, value, rs):
        self.put(value & 0xF0 | rs)
        self.put(value << 4 & 0xF0 | rs)
        sleep_us(50)

    def write(self, row, text):
        self.send(0x80 | (0x40 if row else 0), 0)
        for c in text:
            self.send(ord(c), self.RS)


post = Display(I2C(0, sda=Pin(8), scl=Pin(9), freq=100000))
level = ADC(Pin(26))
full = Pin(15, Pin.OUT)
key = Pin(14, Pin.IN, Pin.PULL_UP)
decimetres = False
was = 1
shown = None
post.write(0, "Upper basin")
seen = ticks_ms()
while True:
    now = key.value()
    if was and not now:
        decimetres = not decimetres
    was = now
    if shown is None or ticks_diff(ticks_ms(), seen) >= 100:
        seen = ticks_ms()
        raw = level.read_u16()
        percent = raw * 100 // 65535
        full.value(percent >= 80)
        text = "Level {} dm".format(raw * 20 // 65535) if decimetres else "Level {} %".format(percent)
        if text != shown:
            post.write(1, text)
            shown = text
    sleep_ms(10)
