package cli

import (
	"context"
	"fmt"
	"time"

	"github.com/urfave/cli/v3"

	"hemble/client"
	"hemble/wire"
)

func markAgainCommand() *cli.Command {
	return &cli.Command{
		Name:         "remark",
		Usage:        "mark all submissions of an exercise anew, and show whose marks would change",
		ArgsUsage:    "EXERCISE",
		Description:  "Nothing changes before it is taken over with --take. Without a revision it is the newest. Proposed marks that are open already are shown, taken or dropped.",
		OnUsageError: usage,
		Flags: []cli.Flag{
			classFlag,
			&cli.IntFlag{Name: "revision", Usage: "the `NUMBER` of the revision to mark by"},
			&cli.BoolFlag{Name: "take", Usage: "take the proposed marks over"},
			&cli.BoolFlag{Name: "drop", Usage: "drop them"},
			&cli.StringSliceFlag{Name: "only", Usage: "only those of this `SUBMISSION`; may be given again"},
			formatFlag,
		},
		Action: markAgain,
	}
}

func markAgain(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() != 1 || c.Bool("take") && c.Bool("drop") {
		return misused("remark takes an exercise's name, and at most one of --take and --drop")
	}
	api, class, err := inClass(c)
	if err != nil {
		return err
	}
	exercise := c.Args().First()
	p, err := openProposal(ctx, c, api, class, exercise)
	if err != nil {
		return err
	}
	for p.Waiting > 0 {
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(300 * time.Millisecond):
		}
		if p, err = api.Proposal(ctx, class, exercise, p.ID); err != nil {
			return err
		}
	}
	if c.Bool("take") || c.Bool("drop") {
		if p, err = api.Decide(ctx, class, exercise, p.ID,
			wire.Decide{Apply: c.Bool("take"), Submissions: c.StringSlice("only")}); err != nil {
			return err
		}
	}
	if c.String("format") == "json" {
		return writeJSON(c.Root().Writer, p)
	}
	out := c.Root().Writer
	for _, m := range p.Moves {
		fmt.Fprintf(out, "%-16s #%d  %5s → %-5s %s  %s\n", m.Student, m.Attempt, m.Old, m.New, m.State, m.Submission)
		for _, why := range m.Why {
			fmt.Fprintf(out, "    %s\n", why)
		}
	}
	state := "open: take it over with --take, or --drop it"
	if p.Closed != nil {
		state = "closed"
	}
	moved := 0
	for _, m := range p.Moves {
		if m.Old != m.New {
			moved++
		}
	}
	if same := len(p.Moves) - moved; same > 0 {
		fmt.Fprintf(out, "%d keep their marks, by other verdicts\n", same)
	}
	fmt.Fprintf(out, "%d would change, %d stay the same; proposal %d by revision %d and engine %s is %s\n", moved,
		p.Same+len(p.Moves)-moved, p.ID, p.Revision, p.Engine, state)
	return nil
}

// openProposal gives the proposal that is open, or makes one.
func openProposal(ctx context.Context, c *cli.Command, api *client.Client, class, exercise string) (p wire.Proposal,
	err error) {
	all, err := api.Proposals(ctx, class, exercise)
	if err != nil {
		return p, err
	}
	for _, old := range all {
		if old.Closed == nil {
			return api.Proposal(ctx, class, exercise, old.ID)
		}
	}
	return api.Propose(ctx, class, exercise, c.Int("revision"))
}
