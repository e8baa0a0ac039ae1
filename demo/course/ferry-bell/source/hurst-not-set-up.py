# One loop that asks the key.
import time
import RPi.GPIO as GPIO

RED, AMBER, GREEN, BELL = 17, 27, 22, 21
SEGMENTS = [5, 6, 13, 19, 26, 16, 20]
DIGITS = ["1111110", "0110000", "1101101", "1111001", "0110011", "1011011", "1011111", "1110000", "1111111", "1111011"]

GPIO.setmode(GPIO.BCM)
GPIO.setwarnings(False)
GPIO.setup([RED, AMBER] + SEGMENTS, GPIO.OUT, initial=GPIO.LOW)
GPIO.setup(BELL, GPIO.IN, pull_up_down=GPIO.PUD_UP)


def show(n):
    for pin, lit in zip(SEGMENTS, DIGITS[n % 10]):
        GPIO.output(pin, lit == "1")


calls = 0
show(calls)
GPIO.output(RED, GPIO.HIGH)
try:
    while True:
        if GPIO.input(BELL) == GPIO.LOW:
            calls += 1
            show(calls)
            GPIO.output(RED, GPIO.LOW)
            for _ in range(3):
                GPIO.output(AMBER, GPIO.HIGH)
                time.sleep(0.4)
                GPIO.output(AMBER, GPIO.LOW)
                time.sleep(0.4)
            GPIO.output(GREEN, GPIO.HIGH)
            time.sleep(2)
            GPIO.output(GREEN, GPIO.LOW)
            GPIO.output(RED, GPIO.HIGH)
            while GPIO.input(BELL) == GPIO.LOW:
                time.sleep(0.01)
        time.sleep(0.01)
finally:
    GPIO.cleanup()
