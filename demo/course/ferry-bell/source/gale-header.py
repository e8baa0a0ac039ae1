"""The key's edge puts a call in a queue; the ferry comes in the main thread."""
import queue
import threading
import time

from RPi import GPIO

# numbers as they stand on the header
LAMPS = {"red": 11, "amber": 13, "green": 15}
KEY = 40
DIGIT = (29, 31, 33, 35, 37, 36, 38)
FONT = {0: 0x3F, 1: 0x06, 2: 0x5B, 3: 0x4F, 4: 0x66, 5: 0x6D, 6: 0x7D, 7: 0x07, 8: 0x7F, 9: 0x6F}


class Display:
    def __init__(self, pins):
        self.pins = pins
        GPIO.setup(pins, GPIO.OUT)

    def show(self, number):
        pattern = FONT[number % 10]
        GPIO.output(self.pins, [pattern >> i & 1 for i in range(7)])


def lamp(name, on):
    GPIO.output(LAMPS[name], on)


waiting = queue.Queue()
busy = threading.Event()


def rung(channel):
    if not busy.is_set():
        busy.set()
        waiting.put(time.monotonic())


def main():
    GPIO.setmode(GPIO.BCM)
    for pin in LAMPS.values():
        GPIO.setup(pin, GPIO.OUT, initial=0)
    GPIO.setup(KEY, GPIO.IN, pull_up_down=GPIO.PUD_UP)
    display = Display(DIGIT)
    calls = 0
    display.show(calls)
    lamp("red", True)
    GPIO.add_event_detect(KEY, GPIO.FALLING, callback=rung, bouncetime=50)
    while True:
        waiting.get()
        calls += 1
        display.show(calls)
        lamp("red", False)
        for step in range(6):
            lamp("amber", step % 2 == 0)
            time.sleep(0.4)
        lamp("green", True)
        time.sleep(2)
        lamp("green", False)
        lamp("red", True)
        busy.clear()


if __name__ == "__main__":
    try:
        main()
    except KeyboardInterrupt:
        GPIO.cleanup()
