// Command ratios turns the output of the core's benchmark into the speed table: for each kind of firmware, the fast
// interpreter's speed over the reference interpreter's, and over that of a stepper in C where there is one, in the same
// run, each the best of its counts, since other load only slows.
package main

import (
	"bufio"
	"fmt"
	"os"
	"regexp"
	"strconv"
)

var line = regexp.MustCompile(`^BenchmarkCore/(\w+)/(plain|fast|stepper)\S*\s+\d+\s+([\d.]+) ns/op\s+([\d.]+) ×real`)

func main() {
	best := map[string]map[string]float64{} // firmware → plain, fast, stepper → speed
	var order []string
	for in := bufio.NewScanner(os.Stdin); in.Scan(); {
		m := line.FindStringSubmatch(in.Text())
		if m == nil {
			continue
		}
		speed, err := strconv.ParseFloat(m[4], 64)
		if err != nil {
			continue
		}
		if best[m[1]] == nil {
			best[m[1]] = map[string]float64{}
			order = append(order, m[1])
		}
		best[m[1]][m[2]] = max(best[m[1]][m[2]], speed)
	}
	fmt.Printf("%-10s %14s %14s %14s %12s %14s\n", "firmware", "fast × real", "plain × real", "C × real", "over plain",
		"over C")
	for _, name := range order {
		b := best[name]
		fmt.Printf("%-10s %14.2f %14.2f ", name, b["fast"], b["plain"])
		if c := b["stepper"]; c > 0 {
			fmt.Printf("%14.2f %11.1f× %13.1f×\n", c, b["fast"]/b["plain"], b["fast"]/c)
		} else {
			fmt.Printf("%14s %11.1f×\n", "", b["fast"]/b["plain"])
		}
	}
}
