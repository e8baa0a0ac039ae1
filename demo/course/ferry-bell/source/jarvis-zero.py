from gpiozero import LED, Button, LEDBoard
from time import sleep

red, green = LED(17), LED(22)
amber = LED(27)
digit = LEDBoard(5, 6, 13, 19, 26, 16, 20)
FONT = ["1111110", "0110000", "1101101", "1111001"]
bell = Button(21)
calls = 0


def show(n):
    digit.value = [int(c) for c in FONT[n]]


def ring():
    global calls
    calls += 1
    show(calls)
    red.off()
    amber.blink(0.4, 0.4, n=3, background=False)
    green.on()
    sleep(2)
    green.off()
    red.on()


show(0)
red.on()
while True:
    bell.wait_for_press()
    ring()
