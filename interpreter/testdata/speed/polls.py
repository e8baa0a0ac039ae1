import RPi.GPIO as GPIO

GPIO.setmode(GPIO.BCM)
GPIO.setup(17, GPIO.OUT)
GPIO.setup(21, GPIO.IN, pull_up_down=GPIO.PUD_UP)
lit = False
while True:
    if GPIO.input(21) == lit:
        lit = not lit
        GPIO.output(17, lit)
