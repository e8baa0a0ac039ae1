package cli

import (
	"context"
	"fmt"
	"io"
	"os"

	"hemble/service/backup"

	"github.com/urfave/cli/v3"
)

func backupCommand() *cli.Command {
	return &cli.Command{
		Name:         "backup",
		Usage:        "make an online backup and verify it",
		ArgsUsage:    "FILE",
		Description:  "The service keeps running. Missing or damaged files are listed and everything else is backed up; the exit status is then 1.",
		OnUsageError: usage,
		Action: func(ctx context.Context, c *cli.Command) error {
			if c.Args().Len() != 1 {
				return misused("backup expects the file to write: hemble backup hemble.tar.gz")
			}
			api, err := signedIn()
			if err != nil {
				return err
			}
			name := c.Args().First()
			err = toFile(name, func(f *os.File) error {
				if err := api.Backup(ctx, f); err != nil {
					return err
				}
				return f.Sync()
			})
			if err != nil {
				return err
			}
			return verifyFile(ctx, c.Root().Writer, name)
		},
	}
}

func restoreCommand() *cli.Command {
	return &cli.Command{
		Name:         "restore",
		Usage:        "restore a backup to a new data folder",
		ArgsUsage:    "FILE",
		Description:  "Start the service with it: hemble serve --data FOLDER. Everything intact is restored; what is not is listed, and the exit status is then 1.",
		OnUsageError: usage,
		Flags: []cli.Flag{&cli.StringFlag{Name: "data", Value: "hemble-data", Usage: "the data `FOLDER` to create",
			Sources: cli.EnvVars("HEMBLE_DATA")}},
		Action: func(ctx context.Context, c *cli.Command) error {
			if c.Args().Len() != 1 {
				return misused("restore expects a backup: hemble restore hemble.tar.gz --data hemble-data")
			}
			f, err := os.Open(c.Args().First())
			if err != nil {
				return err
			}
			defer f.Close()
			report, err := backup.Restore(ctx, f, c.String("data"))
			if err != nil {
				return err
			}
			fmt.Fprintf(c.Root().Writer, "restored to %s\n", c.String("data"))
			return tellReport(c.Root().Writer, c.Args().First(), report)
		},
	}
}

func verifyCommand() *cli.Command {
	return &cli.Command{
		Name:         "verify",
		Usage:        "check that a data folder or a backup is complete and undamaged",
		ArgsUsage:    "FOLDER|FILE",
		Description:  "Reads the database and every file, receipt and mark sheet, and changes nothing. The service may be running. The exit status is 1 if anything is damaged or missing.",
		OnUsageError: usage,
		Action: func(ctx context.Context, c *cli.Command) error {
			if c.Args().Len() != 1 {
				return misused("verify expects a data folder or a backup: hemble verify hemble-data")
			}
			name := c.Args().First()
			info, err := os.Stat(name)
			if err != nil {
				return err
			}
			if !info.IsDir() {
				return verifyFile(ctx, c.Root().Writer, name)
			}
			report, err := backup.Verify(ctx, name)
			if err != nil {
				return err
			}
			return tellReport(c.Root().Writer, name, report)
		},
	}
}

// verifyFile looks through a backup and returns what it found.
func verifyFile(ctx context.Context, out io.Writer, name string) error {
	f, err := os.Open(name)
	if err != nil {
		return err
	}
	defer f.Close()
	report, err := backup.VerifyBackup(ctx, f)
	if err != nil {
		return fmt.Errorf("%s: %w", name, err)
	}
	return tellReport(out, name, report)
}

// tellReport returns what was found whole and what was not.
func tellReport(out io.Writer, name string, r *backup.Report) error {
	fmt.Fprintf(out, "%s: %d files, %d receipts and %d mark sheets are whole\n", name, r.Files, r.Receipts, r.Results)
	if len(r.Damaged) == 0 {
		return nil
	}
	for _, d := range r.Damaged {
		fmt.Fprintf(out, "✗ %s: %s\n", d.What, d.Text)
	}
	fmt.Fprintf(out, "%d damaged or missing\n", len(r.Damaged))
	return errTold
}
