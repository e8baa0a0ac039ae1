from machine import Pin, ADC
from time import sleep_ms, sleep_us

clk = Pin(2, Pin.OUT, value=1)
dio = Pin(3, Pin.OUT, value=1)
scale = ADC(26)
tare = Pin(14, Pin.IN, Pin.PULL_UP)
much = Pin(16, Pin.OUT, value=0)
tared = Pin(17, Pin.OUT, value=0)

FIGURES = [0x3F, 0x06, 0x5B, 0x4F, 0x66, 0x6D, 0x7D, 0x07, 0x7F, 0x6F]
DASH = 0x40


def begin():
    dio.value(0)
    sleep_us(5)
    clk.value(0)
    sleep_us(5)


def end():
    clk.value(0)
    dio.value(0)
    sleep_us(5)
    clk.value(1)
    sleep_us(5)
    dio.value(1)
    sleep_us(5)


def send(byte):
    for i in range(8):
        clk.value(0)
        dio.value(byte >> i & 1)
        sleep_us(5)
        clk.value(1)
        sleep_us(5)
    clk.value(0)
    dio.init(Pin.IN)
    sleep_us(5)
    clk.value(1)
    sleep_us(5)
    clk.value(0)
    dio.init(Pin.OUT)


def show(places):
    begin()
    send(0x40)
    end()
    begin()
    send(0xC0)
    for p in places:
        send(p)
    end()
    begin()
    send(0x8C)
    end()


def number(n):
    if n < 0:
        return [DASH] * 4
    places = [0, 0, 0, 0]
    at = 3
    while True:
        places[at] = FIGURES[n % 10]
        n = n // 10
        at = at - 1
        if n == 0:
            return places


def weigh():
    total = 0
    for i in range(8):
        total += scale.read_u16()
    return (total // 8 * 1000 + 32768) // 65536


nothing = 0
shown = None
was = 1
while True:
    grams = weigh()
    now = tare.value()
    if now == 0 and was == 1:
        nothing = grams
        tared.value(1)
    was = now
    net = grams - nothing
    if net != shown:
        shown = net
        show(number(net))
        if net >= 500:
            much.value(1)
        else:
            much.value(0)
    sleep_ms(50)
