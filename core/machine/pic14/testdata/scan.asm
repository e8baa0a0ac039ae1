; Four digits in turn, timer 0 by interrupt, a table of segments, and a count shown: as a hand writes it.
#ifdef __16F887
        #include <p16f887.inc>
        __CONFIG _CONFIG1, _HS_OSC & _WDT_OFF & _LVP_OFF & _PWRTE_ON & _BOR_OFF
#else
        #include <p16f877a.inc>
        __CONFIG _HS_OSC & _WDT_OFF & _LVP_OFF & _PWRTE_ON
#endif
        cblock 0x20
digit
ones
tens
ticks
        endc
        cblock 0x70
saved_w
saved_s
saved_p
        endc
        org 0
        goto start
        org 4
        movwf saved_w
        swapf STATUS,w
        movwf saved_s
        clrf STATUS
        movf PCLATH,w
        movwf saved_p
        clrf PCLATH
        btfss INTCON,T0IF
        goto leave
        bcf INTCON,T0IF
        clrf PORTD
        incf digit,f
        movlw 3
        andwf digit,f
        movf digit,w
        call place
        movwf saved_w+3
        movf digit,w
        addlw ones
        movwf FSR
        movf INDF,w
        andlw 0x0f
        call table
        movwf PORTC
        movf saved_w+3,w
        movwf PORTD
        incf ticks,f
leave   movf saved_p,w
        movwf PCLATH
        swapf saved_s,w
        movwf STATUS
        swapf saved_w,f
        swapf saved_w,w
        retfie
place   addwf PCL,f
        retlw 1
        retlw 2
        retlw 4
        retlw 8
table   addwf PCL,f
        retlw 0x3f
        retlw 0x06
        retlw 0x5b
        retlw 0x4f
        retlw 0x66
        retlw 0x6d
        retlw 0x7d
        retlw 0x07
        retlw 0x7f
        retlw 0x6f
        retlw 0
        retlw 0
        retlw 0
        retlw 0
        retlw 0
        retlw 0
start   bsf STATUS,RP0
        clrf TRISC
        clrf TRISD
        movlw 0xc3
        movwf OPTION_REG
        bcf STATUS,RP0
        clrf PORTC
        clrf PORTD
        clrf digit
        clrf ones
        clrf tens
        clrf ticks
        movlw 1<<GIE | 1<<T0IE
        movwf INTCON
loop    movlw .50
        subwf ticks,w
        btfss STATUS,C
        goto loop
        clrf ticks
        incf ones,f
        movlw .10
        subwf ones,w
        btfss STATUS,Z
        goto loop
        clrf ones
        incf tens,f
        movlw .10
        subwf tens,w
        btfsc STATUS,Z
        clrf tens
        goto loop
        end
