# Beacon of the potting shed door. Falk
from gpiozero import LED, Button
from time import sleep, monotonic

green = LED(5)
red = LED(6)
white = LED(13)
open_key = Button(12)
lock_key = Button(16)
segments = [LED(n) for n in (17, 27, 22, 23, 24, 25, 4)]

PATTERNS = {
    0: "abcdef", 1: "bc", 2: "abdeg", 3: "abcdg", 4: "bcfg",
    5: "acdfg", 6: "acdefg", 7: "abc", 8: "abcdefg", 9: "abcdfg",
}
OPEN_TIME = 4
BLINK = 0.25


class Door:
    def __init__(self):
        self.is_open = False
        self.until = 0
        self.since = 0
        self.count = 0
        self.was_pressed = False
        self.show()

    def show(self):
        wanted = PATTERNS[self.count]
        for letter, led in zip("abcdefg", segments):
            if letter in wanted:
                led.on()
            else:
                led.off()
        if self.is_open:
            green.on()
            red.off()
        else:
            green.off()
            red.on()
            white.off()

    def opened(self, now):
        if not self.is_open:
            self.is_open = True
            self.since = now
            self.count = (self.count + 1) % 10
        self.until = now + OPEN_TIME
        self.show()

    def closed(self):
        self.is_open = False
        self.show()

    def step(self):
        now = monotonic()
        pressed = open_key.is_pressed
        if pressed and not self.was_pressed:
            self.opened(now)
        self.was_pressed = pressed
        if lock_key.is_pressed and self.is_open:
            self.closed()
        if self.is_open and now >= self.until:
            self.closed()
        if self.is_open:
            if int((now - self.since) / BLINK) % 2 == 0:
                white.on()
            else:
                white.off()


door = Door()
while True:
    door.step()
    sleep(0.01)
