/* stepper.c - a plain interpreter of the ATmega328P in C, a measure of speed for the benchmark and nothing else.
 *
 *   stepper FLASH CYCLES     FLASH is the program's bytes from address 0 on
 *
 * It decodes flash once and carries out one instruction after the other (AVR Instruction Set Manual, DS40002198), and
 * leaves nothing out. A register is read at the beginning of an instruction's last cycle, and written at its end. It
 * has ports, timers 0 and 1 with their overflow and compare A interrupts in normal and CTC mode, and USART0 that sends;
 * what the benchmark's programs need. It prints the processor's seconds, the cycles, and how often each pin of ports B,
 * C and D changed.
 */
#define _POSIX_C_SOURCE 199309L
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <time.h>

typedef uint8_t u8;
typedef uint16_t u16;
typedef uint32_t u32;
typedef uint64_t u64;

enum { WORDS = 0x4000, RAM_END = 0x8ff };
enum { C = 1, Z = 2, N = 4, V = 8, S = 16, H = 32, T = 64, I = 128 };
enum { SPL = 0x5d, SPH = 0x5e, SREG = 0x5f, UCSR0A = 0xc0, UBRR0L = 0xc4, UBRR0H = 0xc5, UDR0 = 0xc6 };

static u8 data[0x10000]; /* registers, I/O, SRAM */
static u16 flash[WORDS];
static u8 sreg;
static u16 sp = RAM_END;
static u64 cycle, next;       /* when a timer requests an interrupt next */
static int waiting, inhibited; /* an interrupt is requested; one instruction goes before it */
static u64 changes[24], buffer_free, shifted;
static u8 high_byte;

/* ---- timers: counts are those of the cycle at */

typedef struct {
	int a, b, low, compare, flags, mask; /* TCCRxA, TCCRxB, TCNTx, OCRxA, TIFRx, TIMSKx */
	int vector_compare, vector_overflow;
	u32 top;
	u32 count;
	u64 at;
} timer;

static timer timers[2] = {
	{ 0x44, 0x45, 0x46, 0x47, 0x35, 0x6e, 14, 16, 0xff, 0, 0 },
	{ 0x80, 0x81, 0x84, 0x88, 0x36, 0x6f, 11, 13, 0xffff, 0, 0 },
};

static u32 divider(const timer *t)
{
	static const u32 by[8] = { 0, 1, 8, 64, 256, 1024, 0, 0 };
	return by[data[t->b] & 7];
}

static u32 compare(const timer *t)
{
	u32 low = data[t->compare];
	return t->top == 0xff ? low : low | (u32)data[t->compare + 1] << 8;
}

/* top is the count before 0. */
static u32 top(const timer *t)
{
	int clears = t->top == 0xff ? (data[t->a] & 3) == 2 : (data[t->b] & 0x18) == 8;
	return clears ? compare(t) : t->top;
}

static void bring(timer *t)
{
	u32 by = divider(t);
	if (by) {
		u64 ticks = cycle / by - t->at / by, period = top(t) + 1ull, to = t->count + ticks, match = compare(t);
		if (ticks && match < period && to / period + (to % period > match) > t->count / period + (t->count > match))
			data[t->flags] |= 2;
		if (to >= period && top(t) == t->top)
			data[t->flags] |= 1;
		t->count = (u32)(to % period);
	}
	t->at = cycle;
}

/* plan finds the cycle at which an interrupt is requested next. */
static void plan(void)
{
	next = ~0ull;
	waiting = 0;
	for (timer *t = timers; t < timers + 2; t++) {
		u32 by = divider(t);
		bring(t);
		if (data[t->flags] & data[t->mask] & 3)
			waiting = 1;
		if (!by || !(data[t->mask] & 3))
			continue;
		u64 period = top(t) + 1ull, match = compare(t), ticks = period - t->count;
		if (data[t->mask] & 2 && match < period)
			ticks = match >= t->count ? match + 1 - t->count : period - t->count + match + 1;
		u64 at = (t->at / by + ticks) * by;
		if (at < next)
			next = at;
	}
	if (waiting && sreg & I)
		next = 0;
}

/* ---- registers of peripherals */

static u8 load_io(u32 a)
{
	switch (a) {
	case 0x23: case 0x26: case 0x29: /* PINx: outputs as driven, inputs with their pull-ups */
		return data[a + 2];
	case 0x35: case 0x36:
		bring(&timers[a - 0x35]);
		return data[a];
	case 0x46:
		bring(&timers[0]);
		return (u8)timers[0].count;
	case 0x84:
		bring(&timers[1]);
		high_byte = (u8)(timers[1].count >> 8);
		return (u8)timers[1].count;
	case 0x85:
		return high_byte;
	case UCSR0A:
		return (u8)((data[a] & 0xdf) | (cycle >= buffer_free) << 5 | (cycle >= shifted) << 6);
	case SPL: return (u8)sp;
	case SPH: return (u8)(sp >> 8);
	case SREG: return sreg;
	}
	return data[a];
}

static void drive(u32 port, u8 before)
{
	for (u8 x = (data[port] & data[port - 1]) ^ before, i = 0; x; x >>= 1, i++)
		changes[(port - 0x25) / 3 * 8 + i] += x & 1;
}

static void store_io(u32 a, u8 x)
{
	u8 before;
	u64 frame;
	switch (a) {
	case 0x23: case 0x26: case 0x29: /* PINx: ones toggle PORTx */
		x ^= data[a + 2];
		a += 2;
		/* fall through */
	case 0x25: case 0x28: case 0x2b:
		before = data[a] & data[a - 1];
		data[a] = x;
		drive(a, before);
		return;
	case 0x24: case 0x27: case 0x2a:
		before = data[a] & data[a + 1];
		data[a] = x;
		drive(a + 1, before);
		return;
	case 0x35: case 0x36:
		bring(&timers[a - 0x35]);
		data[a] &= (u8)~x;
		plan();
		return;
	case 0x85: case 0x89: /* high bytes of timer 1 wait in one place for the low one */
		high_byte = x;
		return;
	case 0x44: case 0x45: case 0x47: case 0x6e: case 0x6f: case 0x80: case 0x81: case 0x88:
		bring(&timers[0]);
		bring(&timers[1]);
		data[a] = x;
		if (a == 0x88)
			data[0x89] = high_byte;
		plan();
		return;
	case 0x46:
		bring(&timers[0]);
		timers[0].count = x;
		plan();
		return;
	case 0x84:
		bring(&timers[1]);
		timers[1].count = x | (u32)high_byte << 8;
		plan();
		return;
	case UDR0:
		frame = 10ull * (data[UCSR0A] & 2 ? 8 : 16) * ((data[UBRR0L] | data[UBRR0H] << 8) + 1u);
		buffer_free = cycle > shifted ? cycle : shifted;
		shifted = buffer_free + frame;
		return;
	case SPL: sp = (u16)((sp & 0xff00) | x); return;
	case SPH: sp = (u16)((sp & 0xff) | x << 8); return;
	case SREG:
		inhibited = !(sreg & I) && x & I;
		sreg = x;
		if (waiting && x & I)
			next = 0;
		return;
	}
	data[a] = x;
}

static inline u8 load(u32 a) { return a - 0x20 < 0xe0 ? load_io(a) : data[a]; }

static inline void store(u32 a, u8 x)
{
	if (a - 0x20 < 0xe0)
		store_io(a, x);
	else
		data[a] = x;
}

static inline void push(u8 x) { data[sp--] = x; }
static inline u8 pop(void) { return data[++sp]; }
static inline void push_pc(u32 pc) { push((u8)pc); push((u8)(pc >> 8)); }
static inline u32 pop_pc(void) { u32 high = pop(); return high << 8 | pop(); }

/* ---- instructions */

enum {
	BAD, NOP, MOVW, MULS, MULSU, FMUL, FMULS, FMULSU, CPC, SBC, ADD, CPSE, CP, SUB, ADC, AND, EOR, OR, MOV, CPI, SBCI,
	SUBI, ORI, ANDI, LDD, STD, LDS, STS, LD, LD_UP, LD_DOWN, ST, ST_UP, ST_DOWN, LPM, LPM_UP, POP, PUSH, COM, NEG, SWAP,
	INC, ASR, LSR, ROR, DEC, BSET, BCLR, RET, RETI, SLEEP, IJMP, ICALL, JMP, CALL, ADIW, SBIW, CBI, SBIC, SBI, SBIS,
	MUL, IN, OUT, RJMP, RCALL, LDI, BRBS, BRBC, BLD, BST, SBRC, SBRS
};

typedef struct {
	u8 op, d, r, length;
	u16 k; /* address, constant or target */
} instruction;

static instruction code[WORDS + 2];

static instruction decode(u32 pc)
{
	u16 w = flash[pc], second = flash[(pc + 1) % WORDS];
	u8 d5 = w >> 4 & 31, r5 = (w & 15) | (w >> 5 & 16), d4 = 16 + (w >> 4 & 15), k8 = (w & 15) | (w >> 4 & 0xf0);
	u8 offset = (w & 7) | (w >> 7 & 0x18) | (w >> 8 & 0x20);
	instruction in = { BAD, d5, r5, 1, 0 };
#define IS(o, dd, rr, kk) do { in.op = o; in.d = (u8)(dd); in.r = (u8)(rr); in.k = (u16)(kk); return in; } while (0)
	static const u8 row0[16] = { BAD, MOVW, MULS, FMUL, CPC, CPC, CPC, CPC, SBC, SBC, SBC, SBC, ADD, ADD, ADD, ADD };
	static const u8 row1[4] = { CPSE, CP, SUB, ADC }, row2[4] = { AND, EOR, OR, MOV };
	static const u8 constant[8] = { 0, 0, 0, CPI, SBCI, SUBI, ORI, ANDI };
	switch (w >> 12) {
	case 0:
		if (w == 0) IS(NOP, 0, 0, 0);
		if (w >> 8 == 1) IS(MOVW, (w >> 4 & 15) * 2, (w & 15) * 2, 0);
		if (w >> 8 == 2) IS(MULS, d4, 16 + (w & 15), 0);
		if (w >> 8 == 3)
			IS(w & 0x80 ? w & 8 ? FMULSU : FMULS : w & 8 ? FMUL : MULSU, 16 + (w >> 4 & 7), 16 + (w & 7), 0);
		IS(row0[w >> 8 & 15], d5, r5, 0);
	case 1: IS(row1[w >> 10 & 3], d5, r5, 0);
	case 2: IS(row2[w >> 10 & 3], d5, r5, 0);
	case 3: case 4: case 5: case 6: case 7: IS(constant[w >> 12], d4, 0, k8);
	case 8: case 10: IS(w & 0x200 ? STD : LDD, d5, w & 8 ? 28 : 30, offset);
	case 9:
		switch (w >> 8 & 15) {
		case 0: case 1:
			switch (w & 15) {
			case 0: in.length = 2; IS(LDS, d5, 0, second);
			case 1: IS(LD_UP, d5, 30, 0);
			case 2: IS(LD_DOWN, d5, 30, 0);
			case 4: IS(LPM, d5, 0, 0);
			case 5: IS(LPM_UP, d5, 0, 0);
			case 9: IS(LD_UP, d5, 28, 0);
			case 10: IS(LD_DOWN, d5, 28, 0);
			case 12: IS(LD, d5, 26, 0);
			case 13: IS(LD_UP, d5, 26, 0);
			case 14: IS(LD_DOWN, d5, 26, 0);
			case 15: IS(POP, d5, 0, 0);
			}
			return in;
		case 2: case 3:
			switch (w & 15) {
			case 0: in.length = 2; IS(STS, d5, 0, second);
			case 1: IS(ST_UP, d5, 30, 0);
			case 2: IS(ST_DOWN, d5, 30, 0);
			case 9: IS(ST_UP, d5, 28, 0);
			case 10: IS(ST_DOWN, d5, 28, 0);
			case 12: IS(ST, d5, 26, 0);
			case 13: IS(ST_UP, d5, 26, 0);
			case 14: IS(ST_DOWN, d5, 26, 0);
			case 15: IS(PUSH, d5, 0, 0);
			}
			return in;
		case 4: case 5:
			switch (w) {
			case 0x9508: IS(RET, 0, 0, 0);
			case 0x9518: IS(RETI, 0, 0, 0);
			case 0x9588: IS(SLEEP, 0, 0, 0);
			case 0x9598: case 0x95a8: IS(NOP, 0, 0, 0);
			case 0x95c8: IS(LPM, 0, 0, 0);
			case 0x9409: IS(IJMP, 0, 0, 0);
			case 0x9509: IS(ICALL, 0, 0, 0);
			}
			switch (w & 15) {
			case 0: IS(COM, d5, 0, 0);
			case 1: IS(NEG, d5, 0, 0);
			case 2: IS(SWAP, d5, 0, 0);
			case 3: IS(INC, d5, 0, 0);
			case 5: IS(ASR, d5, 0, 0);
			case 6: IS(LSR, d5, 0, 0);
			case 7: IS(ROR, d5, 0, 0);
			case 8:
				if (!(w & 0x100)) IS(w & 0x80 ? BCLR : BSET, 0, 1 << (w >> 4 & 7), 0);
				return in;
			case 10: IS(DEC, d5, 0, 0);
			case 12: case 13: in.length = 2; IS(JMP, 0, 0, second % WORDS);
			case 14: case 15: in.length = 2; IS(CALL, 0, 0, second % WORDS);
			}
			return in;
		case 6: case 7: IS(w & 0x100 ? SBIW : ADIW, 24 + (w >> 4 & 3) * 2, 0, (w & 15) | (w >> 2 & 0x30));
		case 8: IS(CBI, 0, 1 << (w & 7), 0x20 + (w >> 3 & 31));
		case 9: IS(SBIC, 0, 1 << (w & 7), 0x20 + (w >> 3 & 31));
		case 10: IS(SBI, 0, 1 << (w & 7), 0x20 + (w >> 3 & 31));
		case 11: IS(SBIS, 0, 1 << (w & 7), 0x20 + (w >> 3 & 31));
		}
		IS(MUL, d5, r5, 0);
	case 11: IS(w & 0x800 ? OUT : IN, d5, 0, 0x20 + ((w & 15) | (w >> 5 & 0x30)));
	case 12: case 13: IS(w & 0x1000 ? RCALL : RJMP, 0, 0, (pc + 1 + (w & 0xfff) - (w & 0x800) * 2) % WORDS);
	case 14: IS(LDI, d4, 0, k8);
	}
	switch (w >> 9 & 7) {
	case 0: case 1: IS(BRBS, 0, 1 << (w & 7), (pc + 1 + (w >> 3 & 127) - (w >> 2 & 128)) % WORDS);
	case 2: case 3: IS(BRBC, 0, 1 << (w & 7), (pc + 1 + (w >> 3 & 127) - (w >> 2 & 128)) % WORDS);
	case 4: IS(BLD, d5, 1 << (w & 7), 0);
	case 5: IS(BST, d5, 1 << (w & 7), 0);
	case 6: IS(SBRC, d5, 1 << (w & 7), 0);
	}
	IS(SBRS, d5, 1 << (w & 7), 0);
}

/* flags of a result: N, S, Z; V is given */
static inline u8 nsz(u8 r, u8 v)
{
	u8 n = r >> 7;
	return (u8)((r == 0) << 1 | n << 2 | v << 3 | (n ^ v) << 4);
}

static inline u8 add(u8 a, u8 b, u8 carry)
{
	u8 r = (u8)(a + b + carry), c = (a & b) | (b & ~r) | (~r & a), v = ((a ^ r) & (b ^ r)) >> 7;
	sreg = (u8)((sreg & (T | I)) | c >> 7 | (c & 8) << 2 | nsz(r, v));
	return r;
}

static inline u8 subtract(u8 a, u8 b, u8 carry, u8 zero)
{
	u8 r = (u8)(a - b - carry), c = (~a & b) | (b & r) | (r & ~a), v = ((a ^ b) & (a ^ r)) >> 7;
	u8 f = nsz(r, v);
	if (!zero)
		f &= (u8)~Z;
	sreg = (u8)((sreg & (T | I)) | c >> 7 | (c & 8) << 2 | f);
	return r;
}

static inline u8 logic(u8 r) { sreg = (u8)((sreg & ~(S | V | N | Z)) | nsz(r, 0)); return r; }

static inline void product(u32 p, int shift)
{
	sreg = (u8)((sreg & ~(C | Z)) | (p >> 15 & 1));
	p <<= shift;
	data[0] = (u8)p;
	data[1] = (u8)(p >> 8);
	if (!(p & 0xffff))
		sreg |= Z;
}

static inline u16 word(int r) { return (u16)(data[r] | data[r + 1] << 8); }
static inline void put_word(int r, u32 x) { data[r] = (u8)x; data[r + 1] = (u8)(x >> 8); }
static inline u8 flash_byte(u16 a) { return (u8)(flash[a / 2 % WORDS] >> 8 * (a & 1)); }

/* run goes on until a cycle, or to sleep. */
static void run(u64 end)
{
	u32 pc = 0;
	while (cycle < end) {
		if (cycle >= next) {
			plan();
			if (waiting && sreg & I && !inhibited) {
				for (int k = 0; k < 4; k++) { /* in the order of vectors: 11, 13, 14, 16 */
					timer *t = &timers[k < 2];
					u8 flag = k % 2 ? 1 : 2;
					if (!(data[t->flags] & data[t->mask] & flag))
						continue;
					data[t->flags] &= (u8)~flag;
					push_pc(pc);
					sreg &= (u8)~I;
					pc = 2u * (u32)(flag == 2 ? t->vector_compare : t->vector_overflow);
					cycle += 4;
					break;
				}
				plan();
				continue;
			}
		}
		inhibited = 0;
		const instruction *in = &code[pc];
		u8 *d = &data[in->d], r = data[in->r], x;
		u16 p;
		u32 q;
		cycle++;
		pc += in->length;
		switch (in->op) {
		case NOP: break;
		case MOVW: put_word(in->d, word(in->r)); break;
		case MUL: product((u32)*d * r, 0); cycle++; break;
		case MULS: product((u32)((int8_t)*d * (int8_t)r), 0); cycle++; break;
		case MULSU: product((u32)((int8_t)*d * r), 0); cycle++; break;
		case FMUL: product((u32)*d * r, 1); cycle++; break;
		case FMULS: product((u32)((int8_t)*d * (int8_t)r), 1); cycle++; break;
		case FMULSU: product((u32)((int8_t)*d * r), 1); cycle++; break;
		case CPC: subtract(*d, r, sreg & C, sreg & Z); break;
		case SBC: *d = subtract(*d, r, sreg & C, sreg & Z); break;
		case ADD: *d = add(*d, r, 0); break;
		case ADC: *d = add(*d, r, sreg & C); break;
		case CP: subtract(*d, r, 0, 1); break;
		case SUB: *d = subtract(*d, r, 0, 1); break;
		case AND: *d = logic(*d & r); break;
		case EOR: *d = logic(*d ^ r); break;
		case OR: *d = logic(*d | r); break;
		case MOV: *d = r; break;
		case CPI: subtract(*d, (u8)in->k, 0, 1); break;
		case SBCI: *d = subtract(*d, (u8)in->k, sreg & C, sreg & Z); break;
		case SUBI: *d = subtract(*d, (u8)in->k, 0, 1); break;
		case ORI: *d = logic(*d | (u8)in->k); break;
		case ANDI: *d = logic(*d & (u8)in->k); break;
		case LDI: *d = (u8)in->k; break;
		case LDD: *d = load((u16)(word(in->r) + in->k)); cycle++; break;
		case STD: cycle++; store((u16)(word(in->r) + in->k), *d); break;
		case LDS: *d = load(in->k); cycle++; break;
		case STS: cycle++; store(in->k, *d); break;
		case LD: *d = load(word(in->r)); cycle++; break;
		case LD_UP: p = word(in->r); *d = load(p); put_word(in->r, p + 1u); cycle++; break;
		case LD_DOWN: p = (u16)(word(in->r) - 1); put_word(in->r, p); *d = load(p); cycle++; break;
		case ST: cycle++; store(word(in->r), *d); break;
		case ST_UP: cycle++; p = word(in->r); store(p, *d); put_word(in->r, p + 1u); break;
		case ST_DOWN: cycle++; p = (u16)(word(in->r) - 1); put_word(in->r, p); store(p, *d); break;
		case LPM: *d = flash_byte(word(30)); cycle += 2; break;
		case LPM_UP: p = word(30); *d = flash_byte(p); put_word(30, p + 1u); cycle += 2; break;
		case POP: *d = pop(); cycle++; break;
		case PUSH: push(*d); cycle++; break;
		case COM: *d = logic((u8)~*d); sreg |= C; break;
		case NEG: *d = subtract(0, *d, 0, 1); break;
		case SWAP: *d = (u8)(*d << 4 | *d >> 4); break;
		case INC: ++*d; sreg = (u8)((sreg & ~(S | V | N | Z)) | nsz(*d, *d == 0x80)); break;
		case DEC: --*d; sreg = (u8)((sreg & ~(S | V | N | Z)) | nsz(*d, *d == 0x7f)); break;
		case ASR: case LSR: case ROR:
			x = (u8)(*d >> 1 | (in->op == ASR ? *d & 0x80 : in->op == ROR ? (sreg & C) << 7 : 0));
			sreg = (u8)((sreg & ~(S | V | N | Z | C)) | (*d & 1) | nsz(x, (x >> 7) ^ (*d & 1)));
			*d = x;
			break;
		case BSET:
			if (in->r == I)
				store_io(SREG, sreg | I);
			else
				sreg |= in->r;
			break;
		case BCLR: sreg &= (u8)~in->r; break;
		case BLD: *d = sreg & T ? *d | in->r : *d & (u8)~in->r; break;
		case BST: sreg = *d & in->r ? sreg | T : sreg & (u8)~T; break;
		case RET: pc = pop_pc() % WORDS; cycle += 3; break;
		case RETI: pc = pop_pc() % WORDS; cycle += 3; store_io(SREG, sreg | I); break;
		case IJMP: pc = word(30) % WORDS; cycle++; break;
		case ICALL: push_pc(pc); pc = word(30) % WORDS; cycle += 2; break;
		case JMP: pc = in->k; cycle += 2; break;
		case CALL: push_pc(pc); pc = in->k; cycle += 3; break;
		case RJMP: pc = in->k; cycle++; break;
		case RCALL: push_pc(pc); pc = in->k; cycle += 2; break;
		case ADIW: case SBIW:
			p = word(in->d);
			q = in->op == ADIW ? (u32)p + in->k : (u32)p - in->k;
			put_word(in->d, q);
			x = (in->op == ADIW ? (~p & q) : (p & ~q)) >> 15 & 1;
			sreg = (u8)((sreg & ~(S | V | N | Z | C)) | (q >> 16 & 1) | nsz((u8)(q >> 8), x));
			sreg = (u16)q ? sreg & (u8)~Z : sreg | Z;
			cycle++;
			break;
		case CBI: cycle++; store_io(in->k, load_io(in->k) & (u8)~in->r); break;
		case SBI: /* of a PINx, the bit alone toggles */
			x = in->k == 0x23 || in->k == 0x26 || in->k == 0x29 ? 0 : load_io(in->k);
			cycle++;
			store_io(in->k, x | in->r);
			break;
		case IN: *d = load_io(in->k); break;
		case OUT: store_io(in->k, *d); break;
		case BRBS: if (sreg & in->r) { pc = in->k; cycle++; } break;
		case BRBC: if (!(sreg & in->r)) { pc = in->k; cycle++; } break;
#define SKIP_IF(yes) if (yes) { cycle += code[pc].length; pc += code[pc].length; } break
		case CPSE: SKIP_IF(*d == r);
		case SBRC: SKIP_IF(!(*d & in->r));
		case SBRS: SKIP_IF(*d & in->r);
		case SBIC: SKIP_IF(!(load_io(in->k) & in->r));
		case SBIS: SKIP_IF(load_io(in->k) & in->r);
		case SLEEP: return;
		default:
			fprintf(stderr, "stepper: no instruction at 0x%04X\n", 2 * (pc - in->length));
			exit(1);
		}
	}
}

int main(int count, char **argument)
{
	FILE *f = count == 3 ? fopen(argument[1], "rb") : NULL;
	struct timespec from, to;
	u8 *bytes = (u8 *)flash;
	if (!f) {
		fprintf(stderr, "stepper: expects a file with the program's bytes, and cycles\n");
		return 2;
	}
	size_t n = fread(bytes, 1, sizeof flash, f);
	fclose(f);
	for (size_t i = 0; i < WORDS; i++) { /* low byte first; behind the program it is erased */
		u16 low = 2 * i < n ? bytes[2 * i] : 0xff, high = 2 * i + 1 < n ? bytes[2 * i + 1] : 0xff;
		flash[i] = (u16)(low | high << 8);
	}
	for (u32 i = 0; i < WORDS; i++)
		code[i] = decode(i);
	plan();
	clock_gettime(CLOCK_PROCESS_CPUTIME_ID, &from);
	run(strtoull(argument[2], NULL, 10));
	clock_gettime(CLOCK_PROCESS_CPUTIME_ID, &to);
	printf("%.6f %llu", (double)(to.tv_sec - from.tv_sec) + (double)(to.tv_nsec - from.tv_nsec) / 1e9,
		(unsigned long long)cycle);
	for (int i = 0; i < 24; i++)
		printf(" %llu", (unsigned long long)changes[i]);
	puts("");
	return 0;
}
