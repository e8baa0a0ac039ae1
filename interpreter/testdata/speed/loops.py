n = 0
while True:
    n += 1
