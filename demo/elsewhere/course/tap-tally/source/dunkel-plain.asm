; counts the tap, one loop
        list    p=16f877a
        #include <p16f877a.inc>
        __CONFIG _XT_OSC & _WDT_OFF & _LVP_OFF & _PWRTE_ON & _BODEN_ON

count   equ     0x20
last    equ     0x21
now     equ     0x22
n1      equ     0x23
n2      equ     0x24

        org     0
        goto    begin

table   addwf   PCL,f
        retlw   b'00111111'
        retlw   b'00000110'
        retlw   b'01011011'
        retlw   b'01001111'
        retlw   b'01100110'
        retlw   b'01101101'
        retlw   b'01111101'
        retlw   b'00000111'
        retlw   b'01111111'
        retlw   b'01101111'

begin   bsf     STATUS,RP0
        clrf    TRISD
        bcf     TRISC,0
        movlw   0x03
        movwf   TRISB
        bcf     OPTION_REG,7
        bcf     STATUS,RP0
        clrf    PORTC
        clrf    count
        movlw   0x03
        movwf   last

loop    movf    count,w
        call    table
        movwf   PORTD
        movlw   5
        subwf   count,w
        btfss   STATUS,C
        goto    few
        bsf     PORTC,0
        goto    keys
few     bcf     PORTC,0

keys    movf    PORTB,w
        andlw   0x03
        movwf   now
        btfsc   now,0
        goto    second
        btfss   last,0
        goto    second
        incf    count,f
        movlw   d'10'
        subwf   count,w
        btfsc   STATUS,Z
        clrf    count
second  btfsc   now,1
        goto    done
        btfss   last,1
        goto    done
        clrf    count
done    movf    now,w
        movwf   last
        call    wait
        goto    loop

; about 10 ms
wait    movlw   d'13'
        movwf   n1
outer   movlw   0
        movwf   n2
inner   decfsz  n2,f
        goto    inner
        decfsz  n1,f
        goto    outer
        return

        end
