package rp2040

// plainAtReset are registers that only keep what is written to them, and have something else than 0 after a reset, by
// their addresses (2.2 and the lists of registers of each block).
var plainAtReset = func() map[uint32]uint32 {
	out := map[uint32]uint32{
		0x4000_400c: 0x66,                             // SYSCFG DBGFORCE
		0x4000_8078: 0xff,                             // CLK_SYS_RESUS_CTRL
		0x4000_8088: 0x1ff_ffff,                       // FC0_MAX_KHZ
		0x4000_808c: 1,                                // FC0_DELAY
		0x4000_8090: 8,                                // FC0_INTERVAL
		0x4000_80a0: 0xffff_ffff, 0x4000_80a4: 0x7fff, // WAKE_EN
		0x4000_80a8: 0xffff_ffff, 0x4000_80ac: 0x7fff, // SLEEP_EN
		0x4001_c07c: 0xda, 0x4001_c080: 0x5a, // PADS SWCLK, SWD
		0x4002_0004: 0x56, 0x4002_0018: 0x5a, // PADS_QSPI SCLK, SS
		0x4005_402c: 7,                       // TIMER DBGPAUSE
		0x4006_0000: 0xaa0,                   // ROSC CTRL
		0x4006_4000: 0xb1, 0x4006_4004: 0x91, // VREG, BOD
	}
	for i := range uint32(6) {
		out[0x4001_8004+8*i] = 0x1f // IO_QSPI CTRL
	}
	for i := range uint32(4) {
		out[0x4002_0008+4*i] = 0x52 // PADS_QSPI SD0 to SD3
		out[0x4003_000c+8*i] = 0x1f // BUSCTRL PERFSEL
	}
	for i := range uint32(2) {
		i2c := i2cAt + 0x4000*i
		out[i2c+0x08], out[i2c+0x7c], out[i2c+0x94], out[i2c+0x98], out[i2c+0xa0] = 0x55, 1, 0x64, 1, 7
		out[i2c+0xf8], out[i2c+0xfc] = 0x3230_312a, 0x4457_0140
	}
	return out
}()
