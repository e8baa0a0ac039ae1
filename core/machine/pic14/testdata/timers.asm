; Timers polled and by interrupt, PWM, compare, the serial port, the converter: whatever runs beside the program.
#ifdef __16F88
        #include <p16f88.inc>
        __CONFIG _CONFIG1, _INTRC_IO & _WDT_OFF & _LVP_OFF & _PWRTE_ON & _CCP1_RB0
#define SERIAL 9
#else
#ifdef __16F887
        #include <p16f887.inc>
        __CONFIG _CONFIG1, _INTOSCIO & _WDT_OFF & _LVP_OFF & _PWRTE_ON & _BOR_OFF & _MCLRE_OFF
#else
        #include <p16f877a.inc>
        __CONFIG _XT_OSC & _WDT_OFF & _LVP_OFF & _PWRTE_ON
#endif
#endif
x       equ 0x20
y       equ 0x21
sw      equ 0x7e
ss      equ 0x7f
        org 0
        goto start
        org 4
        movwf sw
        swapf STATUS,w
        movwf ss
        clrf STATUS
        btfss PIR1,TMR2IF
        goto one
        bcf PIR1,TMR2IF
        incf y,f
        btfsc y,5
        bsf PORTB,7
        btfss y,5
        bcf PORTB,7
one     btfss PIR1,TMR1IF
        goto done
        bcf PIR1,TMR1IF
        movlw 0x80
        movwf TMR1H
        movlw 2
        xorwf PORTA,f
done    swapf ss,w
        movwf STATUS
        swapf sw,f
        swapf sw,w
        retfie
start   clrf STATUS
        banksel TRISB
        movlw 0x24
        movwf TRISB
        clrf TRISA
        bsf TRISA,0
#ifdef PORTC
        movlw 0x80
        movwf TRISC
#endif
#ifdef OSCCON
        movlw 0x60
        movwf OSCCON
#endif
#ifdef ANSEL
        banksel ANSEL
        movlw 1
        movwf ANSEL
#endif
#ifdef ANSELH
        clrf ANSELH
#endif
        banksel ADCON1
#ifdef __16F877A
        movlw 0x8e
#else
        movlw 0x80
#endif
        movwf ADCON1
        banksel PR2
        movlw .99
        movwf PR2
        movlw .25
        movwf SPBRG
        movlw 0x24
        movwf TXSTA
        movlw 0xc4
        movwf OPTION_REG
        banksel PORTB
        movlw 0x90
        movwf RCSTA
        movlw 0x2c
        movwf CCP1CON
        movlw .40
        movwf CCPR1L
        movlw 0x1d
        movwf T2CON
        movlw 0x11
        movwf T1CON
        clrf x
        clrf y
        movlw 0x41
        movwf ADCON0
        banksel PIE1
        movlw 3
        movwf PIE1
        banksel PORTB
        movlw 0xc0
        movwf INTCON
loop    btfss INTCON,2
        goto loop
        bcf INTCON,2
        bsf ADCON0,2
conv    btfsc ADCON0,2
        goto conv
        btfss PIR1,TXIF
        goto $-1
        incf x,f
        movf x,w
        movwf TXREG
        movf TMR0,w
settle  subwf TMR0,w
        sublw .100
        btfss STATUS,C
        goto more
        movf TMR1H,w
        xorwf CCPR1L,f
        movlw .63
        andwf CCPR1L,f
        goto loop
more    movf TMR0,w
        goto settle
        end
