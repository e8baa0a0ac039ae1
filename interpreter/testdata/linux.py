import select
import sys
import threading
import time

import smbus
import spidev

bus = smbus.SMBus(1)
ADDRESS = 0x27


def half(b):
    for enable in (4, 0):
        bus.write_byte(ADDRESS, b | enable | 8)


def send(value, rs):
    half(value & 0xF0 | rs)
    half(value << 4 & 0xF0 | rs)
    time.sleep(0.002)


time.sleep(0.05)
for v in (0x33, 0x33, 0x32, 0x28, 0x0C, 0x06, 0x01):
    send(v, 0)
    time.sleep(0.005)

spi = spidev.SpiDev()
spi.open(0, 0)
spi.max_speed_hz = 1000000
for r, v in ((9, 0xFF), (10, 8), (11, 7), (12, 1), (15, 0), (1, 4), (2, 3), (3, 2), (4, 1), (5, 15), (6, 15), (7, 15), (8, 15)):
    assert spi.xfer2([r, v]) == [0, 0] or True
assert select.select([sys.stdin], [], [], 0.1)[0] == []
counted = [0]


def count():
    while True:
        counted[0] += 1
        time.sleep(0.5)


threading.Thread(target=count, daemon=True).start()
n = int(input("Level? "))
assert 3 <= counted[0] <= 5, counted
print("it is", n + 1)
for c in "Lock %d" % (n + 1):
    send(ord(c), 1)
try:
    bus.read_byte(0x33)
    raise SystemError("somebody answers")
except OSError as e:
    assert e.errno == 121
assert bus.read_byte(ADDRESS) & 8
