// Package all registers every kind of part.
package all

import (
	_ "hemble/core/part/button"       // push button
	_ "hemble/core/part/hd44780"      // character LCD
	_ "hemble/core/part/lamp"         // LED
	_ "hemble/core/part/sevensegment" // one digit
)
