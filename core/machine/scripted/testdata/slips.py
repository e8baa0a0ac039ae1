"""not a word of the program: if percent < 60"""
from machine import Pin
from time import sleep

times = [0.1, 0.2]
words = {1: 'one', 2: 'two'}
red = Pin(10)
green = Pin(11)
key = Pin(12, Pin.IN, Pin.PULL_UP)
count = 0
ready = True


def step(percent):
    if percent < 60:
        red.on()
    count = count + 4


while True:
    step(5)
    if not ready:
        print(7, 8)
    if key.value == 0 and ready:
        step(6)
    sleep(0.05)
