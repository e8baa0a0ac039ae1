from machine import Pin, ADC, PWM
from time import sleep_ms

lamps = [Pin(n, Pin.OUT) for n in range(2, 10)]
sun = ADC(26)
key = Pin(14, Pin.IN, Pin.PULL_UP)
beep = PWM(Pin(15))
beep.freq(880)
beep.duty_u16(0)

dot = False
last = 1

while True:
    now = key.value()
    if now == 0 and last == 1:
        dot = not dot
    last = now

    total = 0
    for i in range(4):
        total += sun.read_u16()
    value = total // 4
    count = (value + 4096) // 8192

    for i in range(8):
        if dot:
            lamps[i].value(i == count - 1)
        else:
            lamps[i].value(i < count)

    if count == 8:
        beep.duty_u16(32768)
    else:
        beep.duty_u16(0)
    sleep_ms(20)
