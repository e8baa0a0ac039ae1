package rp2040

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/machine"
)

// registers are those of the blocks that are modelled, by the datasheet's lists: what they are after reset, and the
// bits that keep what is written to them. Of those with none the write does something else, or nothing.
var registers = []struct {
	name            string
	address         uint32
	reset, writable uint32
}{
	{"SYSINFO CHIP_ID", 0x4000_0000, 0x2000_2927, 0},
	{"SYSCFG DBGFORCE", 0x4000_400c, 0x66, 0},
	{"CLK_REF_CTRL", 0x4000_8030, 0, 0}, {"CLK_REF_DIV", 0x4000_8034, 0x100, 0x300}, {"CLK_REF_SELECTED", 0x4000_8038, 1, 0},
	{"CLK_SYS_DIV", 0x4000_8040, 0x100, 0}, {"CLK_SYS_SELECTED", 0x4000_8044, 1, 0},
	{"CLK_PERI_CTRL", 0x4000_8048, 0, 0xce0}, {"CLK_ADC_CTRL", 0x4000_8060, 0, 0xce0}, {"CLK_ADC_DIV", 0x4000_8064, 0x100, 0x300},
	{"CLK_RTC_DIV", 0x4000_8070, 0x100, 0xffff_ffff}, {"CLK_SYS_RESUS_CTRL", 0x4000_8078, 0xff, 0x1_11ff},
	{"FC0_DELAY", 0x4000_808c, 1, 7}, {"WAKE_EN0", 0x4000_80a0, 0xffff_ffff, 0xffff_ffff},
	{"SLEEP_EN1", 0x4000_80ac, 0x7fff, 0x7fff},
	{"RESETS WDSEL", 0x4000_c004, 0, 0x1ff_ffff},
	{"GPIO4_CTRL", 0x4001_4024, 0x1f, 0x3003_331f}, {"INTE1", 0x4001_4104, 0, 0xffff_ffff}, {"INTF2", 0x4001_4118, 0, 0xffff_ffff},
	{"IO_QSPI SCLK_CTRL", 0x4001_8004, 0x1f, 0x3003_331f},
	{"PADS GPIO7", 0x4001_c020, 0x56, 0xff}, {"PADS SWCLK", 0x4001_c07c, 0xda, 0xff}, {"PADS SWD", 0x4001_c080, 0x5a, 0xff},
	{"PADS_QSPI SD0", 0x4002_0008, 0x52, 0xff},
	{"XOSC CTRL", 0x4002_4000, 0, 0xff_ffff}, {"XOSC STARTUP", 0x4002_400c, 0xc4, 0x10_3fff},
	{"PLL_SYS CS", 0x4002_8000, 1, 0x13f}, {"PLL_SYS PWR", 0x4002_8004, 0x2d, 0x2d}, {"PLL_SYS FBDIV_INT", 0x4002_8008, 0, 0xfff},
	{"PLL_SYS PRIM", 0x4002_800c, 0x7_7000, 0x7_7000}, {"PLL_USB CS", 0x4002_c000, 1, 0x13f},
	{"BUSCTRL PERFSEL0", 0x4003_000c, 0x1f, 0x1f},
	{"UARTFR", 0x4003_4018, 0x90, 0}, {"UARTIBRD", 0x4003_4024, 0, 0xffff}, {"UARTFBRD", 0x4003_4028, 0, 0x3f},
	{"UARTLCR_H", 0x4003_402c, 0, 0xff}, {"UARTCR", 0x4003_4030, 0x300, 0xff87}, {"UARTIFLS", 0x4003_4034, 0x12, 0x3f},
	{"UARTIMSC", 0x4003_4038, 0, 0x7ff}, {"UARTRIS", 0x4003_403c, 0, 0}, {"UARTDMACR", 0x4003_4048, 0, 7},
	{"UARTPERIPHID2", 0x4003_4fe8, 0x34, 0}, {"UARTPCELLID3", 0x4003_4ffc, 0xb1, 0},
	{"SSPCR0", 0x4003_c000, 0, 0xffcf}, {"SSPSR", 0x4003_c00c, 3, 0}, {"SSPCPSR", 0x4003_c010, 0, 0xff},
	{"SSPIMSC", 0x4003_c014, 0, 0xf}, {"SSPRIS", 0x4003_c018, 8, 0}, {"SSPDMACR", 0x4003_c024, 0, 3},
	{"SSPPERIPHID0", 0x4003_cfe0, 0x22, 0}, {"SSPPERIPHID1", 0x4003_cfe4, 0x10, 0},
	{"IC_CON", 0x4004_4000, 0x65, 0x3ff}, {"IC_TAR", 0x4004_4004, 0x55, 0xfff}, {"IC_SAR", 0x4004_4008, 0x55, 0x3ff},
	{"IC_SS_SCL_HCNT", 0x4004_4014, 0x28, 0xffff}, {"IC_SS_SCL_LCNT", 0x4004_4018, 0x2f, 0xffff},
	{"IC_FS_SCL_HCNT", 0x4004_401c, 6, 0xffff}, {"IC_FS_SCL_LCNT", 0x4004_4020, 0xd, 0xffff},
	{"IC_INTR_MASK", 0x4004_4030, 0x8ff, 0x1fff}, {"IC_RX_TL", 0x4004_4038, 0, 0xf}, {"IC_TX_TL", 0x4004_403c, 0, 0xf},
	{"IC_STATUS", 0x4004_4070, 6, 0}, {"IC_SDA_HOLD", 0x4004_407c, 1, 0xff_ffff}, {"IC_DMA_CR", 0x4004_4088, 0, 3},
	{"IC_SDA_SETUP", 0x4004_4094, 0x64, 0xff}, {"IC_FS_SPKLEN", 0x4004_40a0, 7, 0xff},
	{"IC_COMP_VERSION", 0x4004_40f8, 0x3230_312a, 0}, {"IC_COMP_TYPE", 0x4004_40fc, 0x4457_0140, 0},
	{"ADC CS", 0x4004_c000, 0, 0x1f_7002}, {"ADC DIV", 0x4004_c010, 0, 0xff_ffff}, {"ADC INTE", 0x4004_c018, 0, 1},
	{"PWM CH3_CSR", 0x4005_003c, 0, 0xf}, {"PWM CH3_DIV", 0x4005_0040, 0x10, 0xfff}, {"PWM CH3_CC", 0x4005_0048, 0, 0xffff_ffff},
	{"PWM CH3_TOP", 0x4005_004c, 0xffff, 0xffff}, {"PWM INTE", 0x4005_00a8, 0, 0xff},
	{"TIMER ALARM2", 0x4005_4018, 0, 0xffff_ffff}, {"TIMER DBGPAUSE", 0x4005_402c, 7, 6}, {"TIMER INTE", 0x4005_4038, 0, 15},
	{"WATCHDOG CTRL", 0x4005_8000, 0x700_0000, 0x700_0000}, {"WATCHDOG SCRATCH5", 0x4005_8020, 0, 0xffff_ffff},
	{"WATCHDOG TICK", 0x4005_802c, 0x200, 0}, {"WATCHDOG REASON", 0x4005_8008, 0, 0},
	{"RTC CLKDIV_M1", 0x4005_c000, 0, 0xffff}, {"RTC SETUP_0", 0x4005_c004, 0, 0xff_ff1f}, {"RTC CTRL", 0x4005_c00c, 0, 0x100},
	{"RTC IRQ_SETUP_1", 0x4005_c014, 0, 0xf71f_3f3f}, {"RTC INTE", 0x4005_c024, 0, 1},
	{"ROSC CTRL", 0x4006_0000, 0xaa0, 0xff_ffff}, {"VREG", 0x4006_4000, 0xb1, 0xf3}, {"BOD", 0x4006_4004, 0x91, 0xf1},
	{"DMA CH2_READ_ADDR", 0x5000_0080, 0, 0xffff_ffff}, {"DMA CH2_CTRL", 0x5000_0090, 2 << 11, 0xff_fffe},
	{"DMA INTE1", 0x5000_0414, 0, 0xfff}, {"DMA TIMER0", 0x5000_0420, 0, 0xffff_ffff}, {"DMA N_CHANNELS", 0x5000_0448, 12, 0},
	{"SIO CPUID", 0xd000_0000, 0, 0}, {"GPIO_OUT", 0xd000_0010, 0, 0x3fff_ffff}, {"GPIO_OE", 0xd000_0020, 0, 0x3fff_ffff},
	{"FIFO_ST", 0xd000_0050, 2, 0}, {"DIV_UDIVIDEND", 0xd000_0060, 0, 0xffff_ffff}, {"DIV_CSR", 0xd000_0078, 1, 0},
}

// Every register of the list is after reset as the datasheet has it, keeps the bits that can be written, and has
// aliases that turn, set and clear single ones (2.1.2).
func TestRegisters(t *testing.T) {
	m := newMachine(machine.Config{}).(*Machine)
	m.put(t, unreset, 0x1ff_ffff)
	for _, r := range registers {
		assert.Equal(t, fmt.Sprintf("0x%08X", r.reset), fmt.Sprintf("0x%08X", m.get(t, r.address)), r.name)
	}
	for _, r := range registers {
		if r.writable == 0 {
			continue
		}
		m := newMachine(machine.Config{}).(*Machine)
		m.put(t, unreset, 0x1ff_ffff)
		for _, v := range []uint32{r.writable, 0, r.writable & 0xaaaa_aaaa, r.writable & 0x5555_5555} {
			m.put(t, r.address, v)
			assert.Equal(t, v, m.get(t, r.address)&r.writable, "%s, 0x%08X written", r.name, v)
		}
		if r.address>>28 == 0xd {
			continue
		}
		half := r.writable & 0x3333_3333
		m.put(t, r.address, 0)
		m.put(t, r.address+0x2000, half)
		assert.Equal(t, half, m.get(t, r.address)&r.writable, "%s, set", r.name)
		m.put(t, r.address+0x1000, r.writable)
		assert.Equal(t, r.writable&^half, m.get(t, r.address)&r.writable, "%s, turned", r.name)
		m.put(t, r.address+0x3000, r.writable)
		assert.Zero(t, m.get(t, r.address)&r.writable, "%s, cleared", r.name)
	}
}

// The frequency counter tells the rates of the clocks (2.15.6.2).
func TestFrequencyCounter(t *testing.T) {
	m := idle(t, machine.Config{})
	for source, khz := range map[uint32]uint32{1: 125_000, 5: 12_000, 8: 12_000, 9: 125_000, 10: 125_000, 3: 6_500} {
		m.put(t, 0x4000_8094, source)
		assert.Equal(t, uint32(1<<4), m.get(t, 0x4000_8098))
		assert.Equal(t, khz, m.get(t, 0x4000_809c)/32, "source %d", source)
	}
}
