import time
import RPi.GPIO as GPIO

RS, E = 7, 8
D = (25, 24, 23, 18)
UP, DOWN, START = 20, 21, 16
VALVE, DONE = 26, 19

MINUTE = 0.2
FLASH = 0.2

GPIO.setmode(GPIO.BCM)
GPIO.setup((RS, E) + D + (VALVE, DONE), GPIO.OUT, initial=GPIO.LOW)
GPIO.setup((UP, DOWN, START), GPIO.IN, pull_up_down=GPIO.PUD_UP)


def nibble(n):
    for i in range(4):
        GPIO.output(D[i], (n >> i) & 1)
    GPIO.output(E, True)
    time.sleep(0.000005)
    GPIO.output(E, False)
    time.sleep(0.00005)


def byte(b, data):
    GPIO.output(RS, data)
    nibble(b >> 4)
    nibble(b & 15)


def init():
    time.sleep(0.04)
    for n in (3, 3, 3, 2):
        nibble(n)
        time.sleep(0.005)
    for b in (0x28, 0x0C, 0x06):
        byte(b, False)
    byte(0x01, False)
    time.sleep(0.002)


def row(n, text):
    byte(0x80 + 0x40 * n, False)
    for c in (text + " " * 16)[:16]:
        byte(ord(c), True)


minutes = 10
left = 0
running = False
next_minute = 0.0
flashes = 0
next_flash = 0.0
was = {UP: 1, DOWN: 1, START: 1}


def pressed(key):
    now = GPIO.input(key)
    hit = was[key] == 1 and now == 0
    was[key] = now
    return hit


def show():
    if running:
        row(1, "Left %2d min" % left)
    else:
        row(1, "Set  %2d min" % minutes)


init()
row(0, "Ferns")
show()
while True:
    t = time.monotonic()
    up = pressed(UP)
    down = pressed(DOWN)
    start = pressed(START)
    if running:
        if start:
            running = False
            GPIO.output(VALVE, False)
            show()
        elif t >= next_minute:
            next_minute += MINUTE
            left -= 1
            if left == 0:
                running = False
                GPIO.output(VALVE, False)
                flashes = 6
                next_flash = t
            show()
    else:
        if up and minutes < 30:
            minutes += 5
            show()
        if down and minutes > 5:
            minutes -= 5
            show()
        if start:
            running = True
            left = minutes
            next_minute = t + MINUTE
            GPIO.output(VALVE, True)
            show()
    if flashes > 0 and t >= next_flash:
        flashes -= 1
        next_flash += FLASH
        GPIO.output(DONE, flashes % 2)
    time.sleep(0.01)
