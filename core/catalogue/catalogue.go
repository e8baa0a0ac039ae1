// Package catalogue registers all chips and all kinds of part. Programs that read exercises import it.
package catalogue

import (
	_ "hemble/core/machine/avr"        // chips of the AVR family
	_ "hemble/core/machine/pic14"      // PIC16F877A, PIC16F887, PIC16F88, PIC16F628A
	_ "hemble/core/machine/rp2040"     // RP2040
	_ "hemble/core/machine/rtl"        // programmable logic
	_ "hemble/core/machine/scripted"   // boards that run scripts
	_ "hemble/core/part/analog"        // potentiometer, voltage source, thermistor
	_ "hemble/core/part/bar"           // bar of LEDs
	_ "hemble/core/part/bcd"           // 7447 and 4511
	_ "hemble/core/part/button"        // push button
	_ "hemble/core/part/buzzer"        // sounders
	_ "hemble/core/part/cd4026"        // counter with digit outputs
	_ "hemble/core/part/colourlamp"    // three-colour LED
	_ "hemble/core/part/dht11"         // temperature and humidity
	_ "hemble/core/part/encoder"       // rotary encoder
	_ "hemble/core/part/hc595"         // shift register
	_ "hemble/core/part/hd44780"       // character LCD
	_ "hemble/core/part/keypad"        // 4×4 keys
	_ "hemble/core/part/lamp"          // LED
	_ "hemble/core/part/matrix"        // 8×8 LEDs
	_ "hemble/core/part/max7219"       // eight digits or 8×8 LEDs
	_ "hemble/core/part/resistor"      // between two nets
	_ "hemble/core/part/serialdisplay" // modules on one data line
	_ "hemble/core/part/sevensegment"  // digits
	_ "hemble/core/part/squarewave"    // square-wave source
	_ "hemble/core/part/ssd1306"       // graphic OLED
	_ "hemble/core/part/terminal"      // serial terminal
	_ "hemble/core/part/tm1637"        // digits with keys
	_ "hemble/core/part/toggle"        // switch
)
