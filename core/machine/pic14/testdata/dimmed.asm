; Lamps dimmed by PWM that the program leaves alone most of the time: two modules on one timer, a lamp by hand beside
; them on the same port, reads of that port and of the timer, a period waited for, sleep with the pulses stopped.
#ifdef __16F88
        #include <p16f88.inc>
        __CONFIG _CONFIG1, _INTRC_IO & _WDT_ON & _LVP_OFF & _PWRTE_ON & _CCP1_RB3
#else
#ifdef __16F887
        #include <p16f887.inc>
        __CONFIG _CONFIG1, _INTOSCIO & _WDT_ON & _LVP_OFF & _PWRTE_ON & _BOR_OFF & _MCLRE_OFF
#else
#ifdef __16F628A
        #include <p16f628a.inc>
        __CONFIG _INTOSC_OSC_NOCLKOUT & _WDT_ON & _LVP_OFF & _PWRTE_ON
#else
        #include <p16f877a.inc>
        __CONFIG _XT_OSC & _WDT_ON & _LVP_OFF & _PWRTE_ON
#endif
#endif
#endif
x       equ 0x20
y       equ 0x21
n       equ 0x22
seen    equ 0x23
        org 0
        goto start
        org 4
        bcf INTCON,2
        movlw 4
        xorwf PORTB,f
        retfie
start   clrf STATUS
        clrf PORTB
#ifdef PORTC
        clrf PORTC
#endif
        banksel TRISB
        clrf TRISB
#ifdef PORTC
        movlw 0xe0
        movwf TRISC
#endif
#ifdef ANSEL
        banksel ANSEL
        clrf ANSEL
#endif
#ifdef ANSELH
        clrf ANSELH
#endif
        banksel PR2
        movlw .99
        movwf PR2
        movlw 0x8c              ; the watchdog's time 16 times as long, Timer0 at full speed
        movwf OPTION_REG
#ifdef OSCCON
        banksel OSCCON
        movlw 0x60
        movwf OSCCON
#endif
        banksel T2CON
        movlw 0x2c
        movwf CCP1CON
        movlw .40
        movwf CCPR1L
#ifdef CCP2CON
        movlw 0x0f
        movwf CCP2CON
        movlw .7
        movwf CCPR2L
#endif
        movlw 0x15              ; divided by 4, of three periods one requests
        movwf T2CON
        movlw 0x80
        movwf INTCON
        clrf y
round   movlw .200              ; wait
        movwf n
wait    clrf x
inner   decfsz x,f
        goto inner
        decfsz n,f
        goto wait
        clrwdt
        movlw 1                 ; a lamp beside the pulses
        xorwf PORTB,f
#ifdef PORTC
        btfsc PORTC,2
        bsf PORTC,3
        btfss PORTC,2
        bcf PORTC,3
lit     btfss PORTC,2           ; to an edge of the pulses
        goto lit
#else
lit     btfss PORTB,3
        goto lit
#endif
        movf TMR2,w
        movwf seen
        incf y,f
        movlw 7
        andwf y,w
        btfss STATUS,Z
        goto next
        movlw .13               ; another width
        addwf CCPR1L,f
        bcf PIR1,TMR2IF
period  btfss PIR1,TMR2IF
        goto period
        movlw 0x20              ; with interrupts by Timer0, or without
        xorwf INTCON,f
next    movlw .31
        andwf y,w
        btfss STATUS,Z
        goto round
        movlw 0x10              ; the divider is one now or four
        xorwf CCP1CON,f
        movlw 1
        xorwf T2CON,f
        bcf INTCON,GIE
        sleep
        bsf INTCON,GIE
        goto round
        end
