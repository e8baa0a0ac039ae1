; Rose arch, Wiborg. One pass takes 10 ms.
        list    p=16f628a
        #include <p16f628a.inc>
        __CONFIG _XT_OSC & _WDT_OFF & _LVP_OFF & _PWRTE_ON & _BOREN_ON & _MCLRE_OFF

        cblock  0x20
lamps                   ; the pattern at port B
speed                   ; 0, 1 or 2
limit                   ; passes of a step
pass                    ; passes of this step so far
flags
keys
old
fresh
d1
d2
        endc

BACK    equ     0

        org     0
        goto    main

; passes of a step, by the pace
passes  addwf   PCL,f
        retlw   .40
        retlw   .20
        retlw   .10

main    movlw   7
        movwf   CMCON
        banksel TRISA
        movlw   0xfb
        movwf   TRISA
        clrf    TRISB
        banksel PORTA
        clrf    PORTA
        clrf    speed
        clrf    pass
        clrf    flags
        movlw   .40
        movwf   limit
        movlw   3
        movwf   old
        movlw   1
        movwf   lamps
        movwf   PORTB

again   call    tenms
        comf    PORTA,w
        andlw   3
        movwf   keys
        comf    old,w
        andwf   keys,w
        movwf   fresh
        movf    keys,w
        movwf   old

        btfss   fresh,0
        goto    noPace
        incf    speed,f
        movlw   .3
        subwf   speed,w
        btfsc   STATUS,Z
        clrf    speed
        movf    speed,w
        call    passes
        movwf   limit
        bcf     PORTA,2
        movlw   .2
        subwf   speed,w
        btfsc   STATUS,Z
        bsf     PORTA,2
noPace  btfss   fresh,1
        goto    noWay
        movlw   1<<BACK
        xorwf   flags,f

noWay   incf    pass,f
        movf    limit,w
        subwf   pass,w
        btfss   STATUS,C
        goto    again
        clrf    pass
        btfsc   flags,BACK
        goto    back
        bcf     STATUS,C
        rlf     lamps,f
        btfsc   STATUS,C
        bsf     lamps,0
        goto    put
back    bcf     STATUS,C
        rrf     lamps,f
        btfsc   STATUS,C
        bsf     lamps,7
put     movf    lamps,w
        movwf   PORTB
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
