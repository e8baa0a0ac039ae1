from machine import Pin, I2C, ADC
import time

i2c = I2C(0, scl=Pin(17), sda=Pin(16), freq=100000)
ADDR = 0x27
BACKLIGHT = 0x08


def write4(value):
    i2c.writeto(ADDR, bytes([value | BACKLIGHT | 4]))
    time.sleep_us(2)
    i2c.writeto(ADDR, bytes([value | BACKLIGHT]))
    time.sleep_us(50)


def command(c):
    write4(c & 0xF0)
    write4((c << 4) & 0xF0)
    time.sleep_ms(2)


def letter(c):
    write4(ord(c) & 0xF0 | 1)
    write4((ord(c) << 4) & 0xF0 | 1)


def init():
    time.sleep_ms(50)
    for i in range(3):
        write4(0x30)
        time.sleep_ms(5)
    write4(0x20)
    command(0x28)
    command(0x0C)
    command(0x01)


def row(n, text):
    command(0xC0 if n else 0x80)
    while len(text) < 16:
        text = text + " "
    for c in text:
        letter(c)


sensor = ADC(Pin(27))
lamp = Pin(10, Pin.OUT)
hold = Pin(12, Pin.IN, Pin.PULL_UP)
init()
while True:
    if hold.value() == 0:
        row(1, "Held")
    else:
        percent = sensor.read_u16() * 100 // 65536
        row(0, "Light %3d %%" % percent)
        if percent >= 60:
            row(1, "Shade out")
            lamp.value(1)
        else:
            row(1, "Shade in")
            lamp.value(0)
    time.sleep_ms(100)
