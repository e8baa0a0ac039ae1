package cli

import (
	"bytes"
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"github.com/urfave/cli/v3"

	"hemble/core/clock"
	"hemble/render"
)

func pictureCommand() *cli.Command {
	return &cli.Command{
		Name:         "picture",
		Usage:        "draw what the displays showed",
		ArgsUsage:    "EXERCISE FIRMWARE FILE.svg|FILE.png",
		Description:  "Draws a film strip of every display in a trial, with what was expected under each frame that is not right, or with --at all displays at one time.",
		OnUsageError: usage,
		Flags: []cli.Flag{libraryFlag,
			&cli.StringFlag{Name: "trial", Usage: "`NAME` of the trial (default: the first)"},
			&cli.StringFlag{Name: "at", Usage: "draw all displays at one `TIME`, such as 2.5s"},
			&cli.FloatFlag{Name: "scale", Value: 2, Usage: "`SCALE` of a PNG, 0.5 to 8",
				Validator: func(v float64) error {
					if v < 0.5 || v > 8 {
						return fmt.Errorf("a scale is 0.5 to 8, not %g", v)
					}
					return nil
				}},
		},
		Action: picture,
	}
}

func picture(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() != 3 {
		return misused("picture expects an exercise, a firmware and a file to write: hemble picture EXERCISE FIRMWARE FILE.svg")
	}
	to := c.Args().Get(2)
	kind := strings.ToLower(filepath.Ext(to))
	if kind != ".svg" && kind != ".png" {
		return misused("a picture is written as .svg or .png, not as %q", filepath.Ext(to))
	}
	x, r, err := seen(ctx, c, c.Args().First(), c.Args().Get(1))
	if err != nil {
		return err
	}
	trial, err := findTrial(x, c.String("trial"))
	if err != nil {
		return err
	}
	var p *render.Picture
	for i, run := range r.Reels {
		if run.Trial != trial.Name {
			continue
		}
		p = render.Film(run, &r.Sheet.Trials[i])
		if c.String("at") != "" {
			at, err := clock.Parse(c.String("at"))
			if err != nil {
				return misuse{err}
			}
			if at > run.Length {
				return misused("%s is after the end of the trial (%s)", at.Short(), run.Length.Short())
			}
			p = render.Still(run, at)
		}
	}
	if p == nil {
		return fmt.Errorf("nothing was seen of the trial %q", trial.Name)
	}
	var b bytes.Buffer
	if kind == ".svg" {
		b.WriteString(p.SVG())
	} else if err := p.PNG(&b, c.Float("scale")); err != nil {
		return err
	}
	return os.WriteFile(to, b.Bytes(), 0o644)
}
