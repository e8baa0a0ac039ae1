# A timer measures, an interrupt takes the key, the loop only draws.
import machine
import utime
import threading

ADDRESS = 0x27
i2c = machine.I2C(0, scl=machine.Pin(9), sda=machine.Pin(8), freq=400_000)
adc = machine.ADC(0)
lamp = machine.Pin(15, machine.Pin.OUT, value=0)
button = machine.Pin(14, machine.Pin.IN, machine.Pin.PULL_UP)

state = {"raw": 0, "unit": "%", "pressed": 0}


def measure(timer):
    state["raw"] = adc.read_u16()


def press(pin):
    if utime.ticks_diff(utime.ticks_ms(), state["pressed"]) > 150:
        state["unit"] = "dm" if state["unit"] == "%" else "%"
    state["pressed"] = utime.ticks_ms()


def nibble(n, rs):
    b = n << 4 | 8 | rs
    i2c.writeto(ADDRESS, bytes((b | 4, b)))


def byte(value, rs=0):
    nibble(value >> 4, rs)
    nibble(value & 15, rs)
    utime.sleep_us(60)


def text(position, words):
    byte(0x80 + position)
    for letter in words:
        byte(ord(letter), 1)


utime.sleep_ms(40)
for first in (3, 3, 3, 2):
    nibble(first, 0)
    utime.sleep_ms(5)
for command in (0x28, 0x0C, 0x06, 0x01):
    byte(command)
    utime.sleep_ms(2)
text(0, "Upper basin")
button.irq(trigger=machine.Pin.IRQ_FALLING, handler=press)
timer = machine.Timer(period=100, mode=machine.Timer.PERIODIC, callback=measure)
measure(timer)
while True:
    percent = state["raw"] * 100 // 65535
    lamp(percent >= 80)
    if state["unit"] == "%":
        line = "Level %d %%" % percent
    else:
        line = "Level %d dm" % (state["raw"] * 20 // 65535)
    text(0x40, line + " " * (16 - len(line)))
    utime.sleep_ms(100)
