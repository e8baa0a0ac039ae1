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
		Name:         "mark-again",
		Usage:        "mark all submissions again and show whose marks would change",
		ArgsUsage:    "EXERCISE",
		Description:  "Nothing changes until the proposed marks are applied with --apply. If marks are already proposed, those are shown, applied or discarded.",
		OnUsageError: usage,
		Flags: []cli.Flag{
			classFlag,
			&cli.IntFlag{Name: "revision", Usage: "`NUMBER` of the revision to mark with (default: the newest)"},
			&cli.BoolFlag{Name: "apply", Usage: "apply the proposed marks"},
			&cli.BoolFlag{Name: "discard", Usage: "discard the proposed marks"},
			&cli.StringSliceFlag{Name: "only", Usage: "only this `SUBMISSION`; repeatable"},
			formatFlag,
		},
		Action: markAgain,
	}
}

func markAgain(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() != 1 || c.Bool("apply") && c.Bool("discard") {
		return misused("mark-again expects an exercise's name, and at most one of --apply and --discard")
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
	if c.Bool("apply") || c.Bool("discard") {
		if p, err = api.Decide(ctx, class, exercise, p.ID,
			wire.Decide{Apply: c.Bool("apply"), Submissions: c.StringSlice("only")}); err != nil {
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
	state := "open: take it over with --apply, or --discard it"
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
