"""Barrow gate: a machine of states that a timer of 10 ms drives."""
from gpiozero import LED, Button, LEDBoard
from signal import pause
from threading import Lock
from time import monotonic, sleep

SHUT, OPENING, OPEN, SHUTTING = range(4)
HALF = 0.25
BLINKS = 3
OPEN_FOR = 3.0

red = LED(17, initial_value=True)
amber = LED(27)
green = LED(22)
digit = LEDBoard(12, 16, 20, 21, 26, 19, 13)
call = Button(5, bounce_time=0.02)
beam = Button(6, bounce_time=0.02)

SHAPES = [
    (1, 1, 1, 1, 1, 1, 0),
    (0, 1, 1, 0, 0, 0, 0),
    (1, 1, 0, 1, 1, 0, 1),
    (1, 1, 1, 1, 0, 0, 1),
    (0, 1, 1, 0, 0, 1, 1),
    (1, 0, 1, 1, 0, 1, 1),
    (1, 0, 1, 1, 1, 1, 1),
    (1, 1, 1, 0, 0, 0, 0),
    (1, 1, 1, 1, 1, 1, 1),
    (1, 1, 1, 1, 0, 1, 1),
]

lock = Lock()
state = SHUT
since = 0.0
barrows = 0


def enter(new):
    global state, since
    state = new
    since = monotonic()
    red.value = state == SHUT
    green.value = state == OPEN
    amber.value = state in (OPENING, SHUTTING)


def called():
    with lock:
        if state == SHUT:
            enter(OPENING)
        elif state == OPEN:
            enter(OPEN)


def passed():
    global barrows
    with lock:
        if state != OPEN:
            return
        barrows = (barrows + 1) % 10
        digit.value = SHAPES[barrows]


def step():
    elapsed = monotonic() - since
    if state in (OPENING, SHUTTING):
        halves = int(elapsed / HALF)
        if halves >= 2 * BLINKS:
            enter(OPEN if state == OPENING else SHUT)
        else:
            amber.value = halves % 2 == 0
    elif state == OPEN and elapsed >= OPEN_FOR:
        enter(SHUTTING)


digit.value = SHAPES[0]
call.when_pressed = called
beam.when_pressed = passed
while True:
    with lock:
        step()
    sleep(0.01)
