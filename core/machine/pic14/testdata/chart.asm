; In the manner of a drawing tool's output: code at the top of flash, direction written before each output, delays as
; calls with a count, banks toggled around each access, strings as tables, main that falls back to the reset vector.
        #include <p16f628a.inc>
        __CONFIG _INTOSC_OSC_NOCLKOUT & _WDT_OFF & _LVP_OFF & _MCLRE_OFF & _PWRTE_OFF & _BOREN_OFF
n       equ 0x20
a       equ 0x21
letter  equ 0x22
at      equ 0x23
        org 0
        bcf STATUS,RP0
        bcf STATUS,RP1
        movlw high main
        movwf PCLATH
        goto main & 0x7ff
text    movf at,w
        addwf PCL,f
        retlw 'L'
        retlw 'O'
        retlw 'C'
        retlw 'K'
        retlw 0
wait    movwf n
w1      movlw .249
        movwf a
w2      nop
        goto $+1
        goto $+1
        decfsz a,f
        goto w2
        clrwdt
        decfsz n,f
        goto w1
        return
        org 0x700
main    movlw 7
        movwf CMCON
        clrf at
        bsf STATUS,RP0
        bcf TRISB,3
        bcf STATUS,RP0
        bsf PORTB,3
        movlw .20
        bcf PCLATH,3
        bcf PCLATH,4
        call wait
        bsf STATUS,RP0
        bcf TRISB,3
        bcf STATUS,RP0
        bcf PORTB,3
letters clrf PCLATH
        call text
        movwf letter
        movlw high main
        movwf PCLATH
        movf letter,w
        btfsc STATUS,Z
        goto bits & 0x7ff
        bsf STATUS,RP0
        clrf TRISA
        bcf STATUS,RP0
        movwf PORTA
        incf at,f
        goto letters & 0x7ff
bits    movlw .30
        clrf PCLATH
        call wait
        movlw high main
        movwf PCLATH
        goto last & 0x7ff
        org 0x7fc
last    bsf STATUS,RP0
        bcf TRISB,0
        bcf STATUS,RP0
        incf PORTB,f
        end
