// Package catalogue registers every chip and every kind of part there is. Whoever reads exercises
// imports it.
package catalogue

import (
	_ "hemble/core/machine/avr"       // ATmega328P
	_ "hemble/core/part/button"       // push button
	_ "hemble/core/part/hd44780"      // character LCD
	_ "hemble/core/part/lamp"         // LED
	_ "hemble/core/part/sevensegment" // one digit
)
