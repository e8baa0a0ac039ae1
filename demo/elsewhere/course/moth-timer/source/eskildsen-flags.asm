; Moth trap, Eskildsen. Passes of 10 ms; flags tell what goes on.
        list    p=16f877a
        #include <p16f877a.inc>
        __CONFIG _XT_OSC & _WDT_OFF & _LVP_OFF & _PWRTE_ON & _BODEN_ON

        cblock  0x20
want                    ; seconds that are set
left                    ; seconds that are left
flags
pass                    ; passes of this second, or of this blink
blinks                  ; halves of blinks that are left
keys
old
fresh
d1
d2
        endc

RUNS    equ     0
ENDS    equ     1

        org     0
        goto    main

shape   addwf   PCL,f
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

main    banksel TRISD
        movlw   0x80
        movwf   TRISD
        movlw   0xfe
        movwf   TRISC
        movlw   0xff
        movwf   TRISB
        bcf     OPTION_REG,NOT_RBPU
        banksel PORTD
        clrf    PORTC
        movlw   5
        movwf   want
        clrf    flags
        movlw   3
        movwf   old

again   call    tenms
        ; which keys are new
        comf    PORTB,w
        andlw   3
        movwf   keys
        comf    old,w
        andwf   keys,w
        movwf   fresh
        movf    keys,w
        movwf   old

        btfsc   flags,RUNS
        goto    running
        btfsc   flags,ENDS
        goto    ending

        ; waiting
        btfss   fresh,0
        goto    nomore
        incf    want,f
        movlw   .10
        subwf   want,w
        btfss   STATUS,Z
        goto    nomore
        movlw   1
        movwf   want
nomore  btfss   fresh,1
        goto    show
        movf    want,w
        movwf   left
        clrf    pass
        bsf     flags,RUNS
        bsf     PORTC,0
        goto    show

running btfsc   fresh,1
        goto    stop
        incf    pass,f
        movlw   .100
        subwf   pass,w
        btfss   STATUS,Z
        goto    show
        clrf    pass
        decfsz  left,f
        goto    show
        bcf     flags,RUNS
        bsf     flags,ENDS
        bcf     PORTC,0
        movlw   .6
        movwf   blinks
        goto    show

stop    bcf     flags,RUNS
        bcf     PORTC,0
        goto    show

ending  incf    pass,f
        movlw   .30
        subwf   pass,w
        btfss   STATUS,Z
        goto    show
        clrf    pass
        decfsz  blinks,f
        goto    show
        bcf     flags,ENDS

        ; what the digit shows
show    btfsc   flags,RUNS
        goto    sleft
        btfsc   flags,ENDS
        goto    sends
        movf    want,w
        goto    put
sleft   movf    left,w
        goto    put
sends   btfsc   blinks,0
        goto    dark
        movlw   0
put     call    shape
        xorlw   0x7f
        movwf   PORTD
        goto    again
dark    movlw   0x7f
        movwf   PORTD
        goto    again

; a little less than 10 ms
tenms   movlw   .13
        movwf   d1
t1      movlw   .254
        movwf   d2
t2      decfsz  d2,f
        goto    t2
        decfsz  d1,f
        goto    t1
        return

        end
