# Egg desk - Kvamme. Everything is polled in one loop.
import time
import RPi.GPIO as GPIO

DATA, CLOCK, LATCH = 10, 11, 8
EGG, BOX = 17, 27
FULL = 24
BOXES = [5, 6, 13, 19]

MOST = 30
IN_A_BOX = 6
HOLD = 1.0
REPEAT = 0.2
BLINK = 0.4

SEGMENTS = [0x3F, 0x06, 0x5B, 0x4F, 0x66, 0x6D, 0x7D, 0x07, 0x7F, 0x6F]
BLANK = 0x00

GPIO.setmode(GPIO.BCM)
GPIO.setwarnings(False)
for pin in [DATA, CLOCK, LATCH, FULL] + BOXES:
    GPIO.setup(pin, GPIO.OUT, initial=GPIO.LOW)
for pin in (EGG, BOX):
    GPIO.setup(pin, GPIO.IN, pull_up_down=GPIO.PUD_UP)


def shift_out(pattern):
    for bit in range(7, -1, -1):
        GPIO.output(DATA, (pattern >> bit) & 1)
        GPIO.output(CLOCK, 1)
        GPIO.output(CLOCK, 0)


def show(number):
    tens, ones = divmod(number, 10)
    left = SEGMENTS[tens] if tens > 0 else BLANK
    shift_out(~left & 0xFF)
    shift_out(~SEGMENTS[ones] & 0xFF)
    GPIO.output(LATCH, 1)
    GPIO.output(LATCH, 0)


def show_boxes(count):
    for i, pin in enumerate(BOXES):
        GPIO.output(pin, i < count)


eggs = 0
boxes = 0
egg_down = False
box_down = False
pressed_at = 0.0
next_repeat = 0.0
full_since = 0.0
show(eggs)

while True:
    now = time.monotonic()
    changed = False

    egg = GPIO.input(EGG) == 0
    if egg and not egg_down:
        pressed_at = now
        next_repeat = now + HOLD
        if eggs < MOST:
            eggs += 1
            changed = True
    elif egg and now >= next_repeat:
        next_repeat += REPEAT
        if eggs < MOST:
            eggs += 1
            changed = True
    egg_down = egg

    box = GPIO.input(BOX) == 0
    if box and not box_down and eggs >= IN_A_BOX:
        eggs -= IN_A_BOX
        boxes += 1
        if boxes > len(BOXES):
            boxes = 0
        show_boxes(boxes)
        changed = True
    box_down = box

    if changed:
        show(eggs)

    if eggs >= MOST:
        GPIO.output(FULL, int((now - full_since) / BLINK) % 2 == 0)
    else:
        full_since = now
        GPIO.output(FULL, 0)
    time.sleep(0.01)
