from signal import pause
from gpiozero import LED, Button

lamp, key = LED(17), Button(21)
key.when_pressed, key.when_released = lamp.on, lamp.off
pause()
