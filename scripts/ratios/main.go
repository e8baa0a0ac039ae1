// Command ratios turns the output of the core's benchmark into the speed table: for each kind of
// firmware the fast core's speed over that of the plain reference in the same run.
package main

import (
	"bufio"
	"fmt"
	"os"
	"regexp"
	"strconv"
)

var line = regexp.MustCompile(`^BenchmarkCore/(\w+)/(plain|fast)\S*\s+\d+\s+([\d.]+) ns/op\s+([\d.]+) ×real`)

func main() {
	plain := map[string]float64{}
	fmt.Printf("%-10s %14s %14s %10s\n", "firmware", "plain × real", "fast × real", "ratio")
	for in := bufio.NewScanner(os.Stdin); in.Scan(); {
		m := line.FindStringSubmatch(in.Text())
		if m == nil {
			continue
		}
		speed, err := strconv.ParseFloat(m[4], 64)
		if err != nil {
			continue
		}
		if m[2] == "plain" {
			plain[m[1]] = speed
			continue
		}
		fmt.Printf("%-10s %14.2f %14.2f %9.1f×\n", m[1], plain[m[1]], speed, speed/plain[m[1]])
	}
}
