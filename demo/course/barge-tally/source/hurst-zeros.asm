; Each digit by waiting; all four are always lit.
        list    p=16f877a
        #include <p16f877a.inc>
        __CONFIG _XT_OSC & _WDT_OFF & _LVP_OFF & _PWRTE_ON & _BODEN_ON
        errorlevel -302

        cblock  0x20
digits:4                        ; ones first
place
still
was
outer
inner
        endc

        org     0
        goto    start

; the segments of a number in W
segments
        addwf   PCL,f
        retlw   0x3f
        retlw   0x06
        retlw   0x5b
        retlw   0x4f
        retlw   0x66
        retlw   0x6d
        retlw   0x7d
        retlw   0x07
        retlw   0x7f
        retlw   0x6f

; the pin of a place in W
pin
        addwf   PCL,f
        retlw   1
        retlw   2
        retlw   4
        retlw   8

; the next digit in its turn
show
        clrf    PORTC
        incf    place,f
        movlw   3
        andwf   place,f
        movf    place,w
        addlw   digits
        movwf   FSR
        movf    INDF,w
        call    segments
        movwf   PORTD
        movf    place,w
        call    pin
        movwf   PORTC
        return

; the button counts when it has been down for four looks
button
        movf    PORTB,w
        andlw   1
        xorwf   was,w
        btfsc   STATUS,Z
        goto    same
        incf    still,f
        movlw   4
        subwf   still,w
        btfss   STATUS,C
        return
        movlw   1
        xorwf   was,f
        clrf    still
        btfsc   was,0
        return
count   movlw   digits
        movwf   FSR
carry   incf    INDF,f
        movlw   .10
        subwf   INDF,w
        btfss   STATUS,Z
        return
        clrf    INDF
        incf    FSR,f
        movlw   digits+4
        subwf   FSR,w
        btfss   STATUS,C
        goto    carry
        return
same    clrf    still
        return

; 5 ms: 20 times 250 cycles
wait
        movlw   .20
        movwf   outer
wait1   movlw   .82
        movwf   inner
wait2   decfsz  inner,f
        goto    wait2
        decfsz  outer,f
        goto    wait1
        return

start   banksel TRISC
        clrf    TRISC
        clrf    TRISD
        bcf     OPTION_REG,NOT_RBPU
        banksel PORTC
        clrf    PORTC
        clrf    PORTD
        clrf    place
        clrf    still
        clrf    digits+2
        clrf    digits+3
        movlw   1
        movwf   was
        movlw   .7
        movwf   digits
        movlw   .9
        movwf   digits+1
loop    call    show
        call    wait
        call    button
        goto    loop

        end
