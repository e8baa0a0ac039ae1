; The scan is done by timer 0's interrupt every 5 ms; the main loop has only the button.
        list    p=16f877a
        #include <p16f877a.inc>
        __CONFIG _XT_OSC & _WDT_OFF & _LVP_OFF & _PWRTE_ON & _BODEN_ON
        errorlevel -302

        cblock  0x20
ones
tens
hundreds
thousands
which
ticks
down
        endc
        cblock  0x70
save_w
save_s
save_f
        endc

        org     0
        goto    main

        org     4
        movwf   save_w
        swapf   STATUS,w
        movwf   save_s
        clrf    STATUS
        movf    FSR,w
        movwf   save_f
        movlw   .256-.156+2     ; 156 counts of 32 us
        movwf   TMR0
        bcf     INTCON,T0IF
        incf    ticks,f
        clrf    PORTC
        bcf     STATUS,C
        rlf     which,f
        btfsc   which,4
        swapf   which,f
        movf    which,w
        btfsc   which,0
        movf    ones,w
        btfsc   which,1
        movf    tens,w
        btfsc   which,2
        movf    hundreds,w
        btfsc   which,3
        movf    thousands,w
        call    glyph
        movwf   PORTD
        btfss   which,3
        goto    not3
        movf    thousands,f
        btfsc   STATUS,Z
        goto    done
not3    btfss   which,2
        goto    not2
        movf    thousands,w
        iorwf   hundreds,w
        btfsc   STATUS,Z
        goto    done
not2    btfss   which,1
        goto    light
        movf    thousands,w
        iorwf   hundreds,w
        iorwf   tens,w
        btfsc   STATUS,Z
        goto    done
light   movf    which,w
        movwf   PORTC
done    movf    save_f,w
        movwf   FSR
        swapf   save_s,w
        movwf   STATUS
        swapf   save_w,f
        swapf   save_w,w
        retfie

glyph   andlw   0x0f
        addwf   PCL,f
        dt      0x3f,0x06,0x5b,0x4f,0x66,0x6d,0x7d,0x07,0x7f,0x6f

; one more barge
one     incf    ones,f
        movf    ones,w
        sublw   .9
        btfsc   STATUS,C
        return
        clrf    ones
        incf    tens,f
        movf    tens,w
        sublw   .9
        btfsc   STATUS,C
        return
        clrf    tens
        incf    hundreds,f
        movf    hundreds,w
        sublw   .9
        btfsc   STATUS,C
        return
        clrf    hundreds
        incf    thousands,f
        return

; four interrupts: 20 ms
settle  movlw   .4
        movwf   ticks
        comf    ticks,f
        incf    ticks,f         ; -4
        movf    ticks,f
        btfss   STATUS,Z
        goto    $-2
        return

main    clrf    PORTC
        clrf    PORTD
        bsf     STATUS,RP0
        clrf    TRISC
        clrf    TRISD
        movlw   b'01000100'     ; pull-ups on, timer 0 by 32
        movwf   OPTION_REG
        bcf     STATUS,RP0
        movlw   .7
        movwf   ones
        movlw   .9
        movwf   tens
        clrf    hundreds
        clrf    thousands
        movlw   1
        movwf   which
        movlw   1<<GIE | 1<<T0IE
        movwf   INTCON
up      btfsc   PORTB,0
        goto    up
        call    settle
        btfsc   PORTB,0
        goto    up
        call    one
held    btfss   PORTB,0
        goto    held
        call    settle
        btfss   PORTB,0
        goto    held
        goto    up
        end
