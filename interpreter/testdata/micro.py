import select
import sys
import time

import dht
from machine import Pin, SPI, UART

cs = Pin(17, Pin.OUT, value=1)
spi = SPI(0, baudrate=1_000_000, sck=Pin(18), mosi=Pin(19))
for r, v in ((9, 0xFF), (10, 8), (11, 7), (12, 1), (15, 0), (1, 4), (2, 3), (3, 2), (4, 1), (5, 15), (6, 15), (7, 15), (8, 15)):
    cs(0)
    spi.write(bytes((r, v)))
    cs(1)
time.sleep(0.6)
plate = UART(0, 9600)
plate.write("1234")
far = UART(1, baudrate=9600, tx=Pin(8), rx=Pin(9), timeout=5000)
far.write("ready\r\n")
n = int(input("Level? "))
print("it is", n + 1)
line = far.readline()
print("far", line)
far.write(line.upper())
sensor = dht.DHT11(Pin(5))
sensor.measure()
print(sensor.temperature(), sensor.humidity())
keys = select.poll()
keys.register(sys.stdin, select.POLLIN)
print(keys.poll(100))
