; Sum of the tulips, K. Meissner
        list    p=16f887
        #include <p16f887.inc>
        __CONFIG _CONFIG1, _XT_OSC & _WDT_OFF & _PWRTE_ON & _MCLRE_ON & _BOR_OFF & _LVP_OFF
        __CONFIG _CONFIG2, _WRT_OFF

        cblock  0x20
sum
number
tens
ones
keys
before
rest
loops
        endc

        org     0
        goto    start

pattern addwf   PCL,f
        dt      0x3F,0x06,0x5B,0x4F,0x66,0x6D,0x7D,0x07,0x7F,0x6F

start   bsf     STATUS,RP0
        bsf     STATUS,RP1              ; bank 3
        clrf    ANSEL
        clrf    ANSELH
        bcf     STATUS,RP1              ; bank 1
        clrf    TRISD
        movlw   0xF0
        movwf   TRISC
        movlw   0x3F
        movwf   TRISB
        movwf   WPUB
        bcf     OPTION_REG,7            ; pull-ups on
        bcf     STATUS,RP0              ; bank 0
        clrf    sum
        clrf    before
        movlw   0x03
        movwf   PORTC
        clrf    PORTD

loop    call    divide
        ; tens
        movf    tens,w
        call    pattern
        bsf     PORTC,1
        movwf   PORTD
        bcf     PORTC,0
        call    pause
        bsf     PORTC,0
        ; ones
        movf    ones,w
        call    pattern
        movwf   PORTD
        bcf     PORTC,1
        call    pause
        bsf     PORTC,1
        ; odd?
        btfsc   sum,0
        goto    isodd
        bcf     PORTC,2
        goto    look
isodd   bsf     PORTC,2
look    comf    PORTB,w
        andlw   0x3F
        movwf   keys
        btfss   keys,0
        goto    noadd
        btfsc   before,0
        goto    noadd
        ; the number of the switches
        rrf     keys,w
        movwf   number
        rrf     number,w
        andlw   0x0F
        movwf   number
        ; would it be more than 99?
        movf    sum,w
        addwf   number,w
        movwf   rest
        movlw   .100
        subwf   rest,w
        btfsc   STATUS,C
        goto    toomuch
        movf    rest,w
        movwf   sum
        bcf     PORTC,3
        goto    noadd
toomuch bsf     PORTC,3
noadd   btfss   keys,1
        goto    done
        clrf    sum
        bcf     PORTC,3
done    movf    keys,w
        movwf   before
        goto    loop

; sum to tens and ones
divide  clrf    tens
        movf    sum,w
        movwf   ones
again   movlw   .10
        subwf   ones,w
        btfss   STATUS,C
        return
        movwf   ones
        incf    tens,f
        goto    again

; 3 ms
pause   movlw   .4
        movwf   loops
p1      movlw   .250
        movwf   rest
p2      decfsz  rest,f
        goto    p2
        decfsz  loops,f
        goto    p1
        return

        end
