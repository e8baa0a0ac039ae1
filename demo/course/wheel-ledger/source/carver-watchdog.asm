; The configuration is that of the data sheet.
        list    p=16f628a
        #include <p16f628a.inc>
        __CONFIG _INTOSC_OSC_NOCLKOUT & _WDT_ON & _LVP_OFF & _MCLRE_ON & _PWRTE_ON & _BODEN_ON
        errorlevel -302

CLK     equ     0
RST     equ     1
WHEEL   equ     2

        cblock  0x20
outer
inner
        endc

        org     0
        goto    start

; 10 ms
wait10  movlw   .40
        movwf   outer
w1      movlw   .82
        movwf   inner
w2      decfsz  inner,f
        goto    w2
        decfsz  outer,f
        goto    w1
        return

start   movlw   0x07
        movwf   CMCON           ; no comparators
        clrf    PORTB
        banksel TRISB
        movlw   b'11111100'
        movwf   TRISB
        banksel PORTB
        bsf     PORTB,RST
        call    wait10
        bcf     PORTB,RST
open    btfsc   PORTA,WHEEL
        goto    open
        call    wait10
        call    wait10
        btfsc   PORTA,WHEEL
        goto    open
        bsf     PORTB,CLK
        nop
        nop
        bcf     PORTB,CLK
closed  btfss   PORTA,WHEEL
        goto    closed
        call    wait10
        call    wait10
        btfss   PORTA,WHEEL
        goto    closed
        goto    open
        end
