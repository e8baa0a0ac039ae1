; The contact is looked at by timer 2's interrupt, every 5 ms; main sleeps in a loop of its own.
        list    p=16f628a
        #include <p16f628a.inc>
        __CONFIG _INTOSC_OSC_NOCLKOUT & _WDT_OFF & _LVP_OFF & _MCLRE_ON & _PWRTE_ON & _BODEN_ON
        errorlevel -302

CLK     equ     0
RST     equ     1
WHEEL   equ     2

        cblock  0x20
history
state
        endc
        cblock  0x70
keep_w
keep_s
        endc

        org     0
        goto    main

        org     4
        movwf   keep_w
        swapf   STATUS,w
        movwf   keep_s
        clrf    STATUS
        bcf     PIR1,TMR2IF
        bcf     STATUS,C
        btfss   PORTA,WHEEL
        bsf     STATUS,C
        rlf     history,f       ; 1 for closed
        movf    history,w
        andlw   0x0f
        xorlw   0x0f
        btfss   STATUS,Z
        goto    maybe
        btfsc   state,0
        goto    leave
        bsf     state,0
        bsf     PORTB,CLK
        nop
        nop
        bcf     PORTB,CLK
        goto    leave
maybe   movf    history,w
        andlw   0x0f
        btfsc   STATUS,Z
        bcf     state,0
leave   swapf   keep_s,w
        movwf   STATUS
        swapf   keep_w,f
        swapf   keep_w,w
        retfie

main    movlw   7
        movwf   CMCON
        clrf    PORTB
        bsf     STATUS,RP0
        bcf     TRISB,CLK
        bcf     TRISB,RST
        movlw   .249
        movwf   PR2
        bsf     PIE1,TMR2IE
        bcf     STATUS,RP0
        clrf    history
        clrf    state
        bsf     PORTB,RST
        nop
        nop
        nop
        bcf     PORTB,RST
        movlw   b'00100101'     ; by 4 and by 5: 5 ms
        movwf   T2CON
        movlw   1<<GIE | 1<<PEIE
        movwf   INTCON
        goto    $
        end
