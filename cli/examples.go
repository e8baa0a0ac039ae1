package cli

import (
	"strings"

	"github.com/urfave/cli/v3"
)

// example is a line that can be typed as it is.
type example struct{ command, line string }

// examples are one for each command, as its help shows them. They run on the demo data in this order, those of the
// service by its instructor.
var examples = []example{
	{"grade", "hemble grade demo/course/chamber-gauge demo/course/chamber-gauge/firmware/stroud-b-f-swapped.elf"},
	{"play", "hemble play demo/course/boat-counter demo/course/boat-counter/firmware/imre-timer.elf"},
	{"trace", "hemble trace --for 100ms demo/course/boat-lamps/firmware/fenwick-timer.elf"},
	{"build", "hemble build --output lamps.elf demo/course/boat-lamps/source/marsh-waits.c"},
	{"check", "hemble check demo/course/chamber-gauge"},
	{"picture", "hemble picture --at 2.5s demo/course/chamber-gauge demo/course/chamber-gauge/firmware/ames-polling.elf gauge.png"},
	{"record", "hemble record demo/course/chamber-gauge demo/course/chamber-gauge/firmware/ames-polling.elf"},
	{"accept", "hemble accept demo/course/chamber-gauge demo/course/chamber-gauge/firmware/stroud-b-f-swapped.elf"},
	{"strength", "hemble strength demo/course/boat-lamps demo/course/boat-lamps/firmware/fenwick-timer.elf"},
	{"schema", "hemble schema --markdown"},
	{"parts", "hemble parts lcd"},
	{"chips", "hemble chips atmega328p"},
	{"serve", "hemble serve --data hemble-data --listen 127.0.0.1:8080"},
	{"demo", "hemble demo"},
	{"login", "hemble login --name instructor http://127.0.0.1:8080"},
	{"class list", "hemble class list"},
	{"class add", `hemble class add evening-watch "Evening watch"`},
	{"class use", "hemble class use lock-house"},
	{"class member", `hemble class member --group B v.wren "V. Wren"`},
	{"class members", "hemble class members"},
	{"class roster", "hemble class roster"},
	{"class link", "hemble class link v.wren"},
	{"class join-code", "hemble class join-code"},
	{"class library", "hemble class library demo/library/GateDigits"},
	{"exercise import", "hemble exercise import demo/course/chamber-gauge"},
	{"exercise list", "hemble exercise list"},
	{"exercise export", "hemble exercise export chamber-gauge"},
	{"exercise revisions", "hemble exercise revisions chamber-gauge"},
	{"exercise assign", `hemble exercise assign --due "2099-02-28 18:00" chamber-gauge`},
	{"exercise extend", `hemble exercise extend --attempts 2 --reason "a broken board" chamber-gauge v.wren`},
	{"task", "hemble task chamber-gauge"},
	{"submit", "hemble submit --student v.wren --wait chamber-gauge demo/course/chamber-gauge/firmware/ames-polling.elf"},
	{"status", "hemble status"},
	{"results", "hemble results chamber-gauge"},
	{"gradebook", "hemble gradebook --csv"},
	{"mark-again", "hemble mark-again chamber-gauge"},
	{"exercise release", "hemble exercise release chamber-gauge"},
	{"backup", "hemble backup lock-house.tar.gz"},
	{"verify", "hemble verify lock-house.tar.gz"},
	{"restore", "hemble restore --data restored lock-house.tar.gz"},
	{"logout", "hemble logout"},
}

// withExamples adds its example to the help of each command that does something.
func withExamples(c *cli.Command, path string) *cli.Command {
	for _, sub := range c.Commands {
		name := strings.TrimSpace(path + " " + sub.Name)
		for _, e := range examples {
			if e.command == name {
				sub.Description = strings.TrimSpace(sub.Description + "\n\nExample: " + e.line)
			}
		}
		withExamples(sub, name)
	}
	return c
}
