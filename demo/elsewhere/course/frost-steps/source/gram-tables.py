import machine
import utime

segs = []
for n in range(6, 13):
    segs.append(machine.Pin(n, machine.Pin.OUT, value=1))
adc = machine.ADC(26)
frost = machine.Pin(18, machine.Pin.OUT, value=0)
fan = machine.Pin(19, machine.Pin.OUT, value=0)
test = machine.Pin(20, machine.Pin.IN, machine.Pin.PULL_UP)

#         gfedcba
table = [0b0111111, 0b0000110, 0b1011011, 0b1001111, 0b1100110]
MINUS = 0b1000000
ALL = 0b1111111
cold = False


def put(bits):
    for i in range(7):
        if bits & (1 << i):
            segs[i].value(0)
        else:
            segs[i].value(1)


def measure():
    total = 0
    for i in range(4):
        total += adc.read_u16()
    return total / 4 / 65535 * 50 - 10


while True:
    degrees = measure()
    if degrees < 3:
        cold = True
    elif degrees >= 5:
        cold = False
    if test.value() == 0:
        put(ALL)
        frost.value(1)
        fan.value(1)
    else:
        if degrees < 0:
            put(MINUS)
        else:
            put(table[int(degrees // 10)])
        frost.value(1 if cold else 0)
        fan.value(1 if degrees >= 30 else 0)
    utime.sleep_ms(50)
