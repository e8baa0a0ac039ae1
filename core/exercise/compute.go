package exercise

import (
	"errors"
	"fmt"
	"math/bits"
	"strconv"
	"strings"
)

// compute works a sum of whole numbers out: +, −, ×, ÷ rounded down, % for the remainder, and brackets. Errors tell
// what was found where a number or an operator was meant.
func compute(text string) (int64, error) {
	text = strings.NewReplacer("×", "*", "÷", "/", "−", "-").Replace(text)
	s := &calculation{rest: text}
	v, err := s.terms(0)
	if s.next(""); err == nil && s.rest != "" {
		err = fmt.Errorf("expected + − × ÷ %% or the end of the sum, got %q", s.rest)
	}
	return v, err
}

// maxDepth bounds brackets within brackets.
const maxDepth = 20

// calculation is what is left of a sum to be read.
type calculation struct{ rest string }

// next takes one of some operators off, 0 where none comes.
func (s *calculation) next(operators string) (op byte) {
	s.rest = strings.TrimLeft(s.rest, " \t\n\r")
	if s.rest != "" && strings.IndexByte(operators, s.rest[0]) >= 0 {
		op, s.rest = s.rest[0], s.rest[1:]
	}
	return op
}

func (s *calculation) terms(depth int) (int64, error) {
	v, err := s.factors(depth)
	for err == nil {
		op := s.next("+-")
		if op == 0 {
			return v, nil
		}
		var w int64
		if w, err = s.factors(depth); err == nil {
			if op == '-' {
				w = -w
			}
			v, err = bounded(v + w)
		}
	}
	return 0, err
}

func (s *calculation) factors(depth int) (int64, error) {
	v, err := s.number(depth)
	for err == nil {
		op := s.next("*/%")
		if op == 0 {
			return v, nil
		}
		var w int64
		if w, err = s.number(depth); err != nil {
			break
		}
		switch {
		case op == '*':
			if high, _ := bits.Mul64(uint64(max(v, -v)), uint64(max(w, -w))); high != 0 {
				return 0, errTooLarge
			}
			v, err = bounded(v * w)
		case w == 0:
			return 0, errors.New("it divides by 0")
		default:
			quotient, remainder := v/w, v%w
			if remainder != 0 && remainder < 0 != (w < 0) { // down, as a clock runs
				quotient, remainder = quotient-1, remainder+w
			}
			if v = quotient; op == '%' {
				v = remainder
			}
		}
	}
	return 0, err
}

func (s *calculation) number(depth int) (int64, error) {
	if depth > maxDepth {
		return 0, errors.New("it has too many brackets")
	}
	switch s.next("-(") {
	case '-':
		v, err := s.number(depth + 1)
		return -v, err
	case '(':
		v, err := s.terms(depth + 1)
		if err == nil && s.next(")") == 0 {
			err = errors.New("a bracket is not closed")
		}
		return v, err
	}
	end := 0
	for end < len(s.rest) && s.rest[end] >= '0' && s.rest[end] <= '9' {
		end++
	}
	if end == 0 {
		if s.rest == "" {
			return 0, errors.New("a number is missing at its end")
		}
		return 0, fmt.Errorf("expected a whole number, got %q", s.rest)
	}
	v, err := strconv.ParseInt(s.rest[:end], 10, 64)
	if s.rest = s.rest[end:]; err != nil {
		return 0, errTooLarge
	}
	return bounded(v)
}

var errTooLarge = errors.New("the numbers are too large")

func bounded(v int64) (int64, error) {
	const most = 1 << 40
	if v > most || v < -most {
		return 0, errTooLarge
	}
	return v, nil
}
