package cli

import (
	"context"
	"fmt"
	"os"

	"github.com/urfave/cli/v3"

	"hemble/service/store"
)

func backupCommand() *cli.Command {
	return &cli.Command{
		Name:         "backup",
		Usage:        "copy everything that the service must not lose to a file, while it goes on",
		ArgsUsage:    "FILE",
		OnUsageError: usage,
		Action: func(ctx context.Context, c *cli.Command) error {
			if c.Args().Len() != 1 {
				return misused("backup takes the file to write: hemble backup hemble.tar.gz")
			}
			api, err := signedIn()
			if err != nil {
				return err
			}
			return toFile(c.Args().First(), func(f *os.File) error {
				if err := api.Backup(ctx, f); err != nil {
					return err
				}
				return f.Sync()
			})
		},
	}
}

func restoreCommand() *cli.Command {
	return &cli.Command{
		Name:         "restore",
		Usage:        "make a data folder from a backup; `hemble serve --data` goes on with it",
		ArgsUsage:    "FILE",
		OnUsageError: usage,
		Flags:        []cli.Flag{&cli.StringFlag{Name: "data", Value: "hemble-data", Usage: "the `FOLDER` to make", Sources: cli.EnvVars("HEMBLE_DATA")}},
		Action: func(ctx context.Context, c *cli.Command) error {
			if c.Args().Len() != 1 {
				return misused("restore takes a backup: hemble restore hemble.tar.gz --data hemble-data")
			}
			f, err := os.Open(c.Args().First())
			if err != nil {
				return err
			}
			defer f.Close()
			if err := store.Restore(ctx, f, c.String("data")); err != nil {
				return err
			}
			fmt.Fprintf(c.Root().Writer, "restored to %s\n", c.String("data"))
			return nil
		},
	}
}
