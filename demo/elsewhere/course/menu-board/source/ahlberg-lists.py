import time
import RPi.GPIO as GPIO

RS = 7
E = 8
DATA = [25, 24, 23, 18]
NEXT = 20
PLUS = 21
WET = 26

minutes = [10, 10, 10, 10]
bed = 0


def pulse():
    GPIO.output(E, 1)
    time.sleep(0.00001)
    GPIO.output(E, 0)
    time.sleep(0.0001)


def send(value, mode):
    GPIO.output(RS, mode)
    for i in range(4):
        GPIO.output(DATA[i], value >> (4 + i) & 1)
    pulse()
    for i in range(4):
        GPIO.output(DATA[i], value >> i & 1)
    pulse()


def write_row(row, text):
    if row == 0:
        send(0x80, 0)
    else:
        send(0xC0, 0)
    for letter in text.ljust(16):
        send(ord(letter), 1)


def show():
    write_row(0, "Bed " + str(bed + 1))
    write_row(1, "Water %2d min" % minutes[bed])
    if minutes[bed] > 15:
        GPIO.output(WET, 1)
    else:
        GPIO.output(WET, 0)


GPIO.setmode(GPIO.BCM)
for pin in [RS, E, WET] + DATA:
    GPIO.setup(pin, GPIO.OUT)
    GPIO.output(pin, 0)
GPIO.setup(NEXT, GPIO.IN, pull_up_down=GPIO.PUD_UP)
GPIO.setup(PLUS, GPIO.IN, pull_up_down=GPIO.PUD_UP)

time.sleep(0.05)
for code in [0x33, 0x32, 0x28, 0x0C, 0x06, 0x01]:
    send(code, 0)
    time.sleep(0.005)
show()

old_next = 1
old_plus = 1
while True:
    now_next = GPIO.input(NEXT)
    now_plus = GPIO.input(PLUS)
    if now_next == 0 and old_next == 1:
        bed = bed + 1
        if bed == 4:
            bed = 0
        show()
    if now_plus == 0 and old_plus == 1:
        minutes[bed] = minutes[bed] + 5
        if minutes[bed] > 30:
            minutes[bed] = 5
        show()
    old_next = now_next
    old_plus = now_plus
    time.sleep(0.02)
