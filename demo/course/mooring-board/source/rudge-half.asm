; A boat more every second.
        list    p=16f877a
        #include <p16f877a.inc>
        __CONFIG _XT_OSC & _WDT_OFF & _LVP_OFF & _PWRTE_ON & _BODEN_ON
        errorlevel -302

RS      equ     0
E       equ     1

        cblock  0x20
byte
count
outer
inner
pos
seconds
        endc

        org     0
        goto    start

; W milliseconds
ms      movwf   outer
ms1     movlw   .248
        movwf   inner
ms2     nop
        decfsz  inner,f
        goto    ms2
        nop
        decfsz  outer,f
        goto    ms1
        return

; the upper four bits of W to the LCD
nibble  movwf   PORTD
        bsf     PORTE,E
        nop
        bcf     PORTE,E
        return

; W as a command, or as a character
command bcf     PORTE,RS
        goto    both
letter  bsf     PORTE,RS
both    movwf   byte
        call    nibble
        swapf   byte,w
        call    nibble
        movlw   .1
        goto    ms

row1    movf    pos,w
        addwf   PCL,f
        dt      "Wherry Lock",0
row2    movf    pos,w
        addwf   PCL,f
        dt      "Waiting: ",0

write1  clrf    pos
w1      call    row1
        iorlw   0
        btfsc   STATUS,Z
        return
        call    letter
        incf    pos,f
        goto    w1
write2  clrf    pos
w2      call    row2
        iorlw   0
        btfsc   STATUS,Z
        return
        call    letter
        incf    pos,f
        goto    w2

; the number of boats, without a leading zero
number  movlw   .10
        subwf   count,w
        btfss   STATUS,C
        goto    small
        movwf   byte
        movwf   seconds         ; ones, for a while
        movlw   '1'
        call    letter
        movf    seconds,w
        addlw   '0'
        goto    letter
small   movf    count,w
        addlw   '0'
        goto    letter

start   banksel TRISD
        clrf    TRISD
        clrf    TRISE
        movlw   0x06            ; all pins digital
        movwf   ADCON1
        banksel PORTD
        clrf    PORTD
        clrf    PORTE
        movlw   .50
        call    ms
        movlw   0x30
        call    nibble
        movlw   .5
        call    ms
        movlw   0x30
        call    nibble
        movlw   .1
        call    ms
        movlw   0x30
        call    nibble
        movlw   .1
        call    ms
        movlw   0x20
        call    nibble
        movlw   .1
        call    ms
        movlw   0x28
        call    command
        movlw   0x0c
        call    command
        movlw   0x06
        call    command
        movlw   0x01
        call    command
        movlw   .3
        call    ms
        call    write1
        movlw   .8
        movwf   count
next    movlw   0xc0
        call    command
        call    write2
        call    number
        movlw   .4
        movwf   seconds
second  movlw   .121
        call    ms
        decfsz  seconds,f
        goto    second
        movlw   .12
        subwf   count,w
        btfsc   STATUS,Z
        goto    $
        incf    count,f
        goto    next
        end
