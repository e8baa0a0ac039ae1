import time
import RPi.GPIO as GPIO

valves = [17, 27, 22]
times = [1, 2, 1]
segments = [5, 6, 13, 19, 26, 16, 20]
key = 23
numbers = [
    [1, 1, 1, 1, 1, 1, 0],
    [0, 1, 1, 0, 0, 0, 0],
    [1, 1, 0, 1, 1, 0, 1],
    [1, 1, 1, 1, 0, 0, 1],
    [0, 1, 1, 0, 0, 1, 1],
    [1, 0, 1, 1, 0, 1, 1],
    [1, 0, 1, 1, 1, 1, 1],
    [1, 1, 1, 0, 0, 0, 0],
    [1, 1, 1, 1, 1, 1, 1],
    [1, 1, 1, 1, 0, 1, 1],
]

GPIO.setmode(GPIO.BCM)
for pin in valves + segments:
    GPIO.setup(pin, GPIO.OUT)
    GPIO.output(pin, 0)
GPIO.setup(key, GPIO.IN, pull_up_down=GPIO.PUD_UP)


def show(n):
    for i in range(7):
        GPIO.output(segments[i], numbers[n][i])


def feed():
    for i in range(3):
        GPIO.output(valves[i], 1)
        time.sleep(times[i])
        GPIO.output(valves[i], 0)


feeds = 0
show(feeds)
while True:
    if GPIO.input(key) == 0:
        feed()
        if feeds < 9:
            feeds = feeds + 1
        show(feeds)
        while GPIO.input(key) == 0:
            time.sleep(0.01)
    time.sleep(0.02)
