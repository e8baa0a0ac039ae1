package circuit

// Forward voltages of LEDs at a few mA in µV, by colour: typical values of 5 mm and display dice.
const (
	RedVf    = 1_800_000
	AmberVf  = 2_000_000
	YellowVf = 2_000_000
	GreenVf  = 2_100_000
	BlueVf   = 3_000_000
	WhiteVf  = 3_000_000
)

// Diode gives the current in nA through one of n equal lit diodes that share a common net.
// supply and vf are µV, series the resistor of each diode in Ω; the common net's resistance,
// commonOhms plus its driver's, carries the current of all n.
func Diode(supply, vf int64, anode, cathode Drive, series, commonOhms int64, commonIsAnode bool, n int64) int64 {
	if anode.Level != High || cathode.Level != Low || anode.Strength == None || cathode.Strength == None ||
		supply <= vf {
		return 0
	}
	own, common := cathode.Ohms(), anode.Ohms()
	if !commonIsAnode {
		own, common = common, own
	}
	ohms := series + own + n*(common+commonOhms)
	if ohms <= 0 {
		ohms = 1
	}
	return (supply - vf) * 1000 / ohms
}
