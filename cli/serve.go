package cli

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"strings"

	"github.com/urfave/cli/v3"

	"hemble/client"
	"hemble/console"
	"hemble/core/exercise"
	"hemble/demo"
	"hemble/service"
	"hemble/wire"
)

var listenFlag = &cli.StringFlag{Name: "listen", Value: "127.0.0.1:8080", Usage: "the `ADDRESS` to listen at"}

func serveCommand() *cli.Command {
	return &cli.Command{
		Name:         "serve",
		Usage:        "run the service with its console",
		OnUsageError: usage,
		Flags: []cli.Flag{
			&cli.StringFlag{Name: "data", Value: "hemble-data", Usage: "the `FOLDER` that holds everything"},
			listenFlag,
			&cli.StringFlag{Name: "name", Value: "instructor", Usage: "the `NAME` of the account made at the first start"},
			libraryFlag,
			&cli.StringFlag{Name: "password-file", Usage: "a `FILE` with that account's password; without it one is made up and printed"},
		},
		Action: func(ctx context.Context, c *cli.Command) error {
			slog.SetDefault(slog.New(slog.NewJSONHandler(os.Stderr, nil)))
			config := service.Config{Dir: c.String("data"), Listen: c.String("listen"), Name: c.String("name"), Console: console.Site(), Libraries: c.StringSlice("library")}
			if file := c.String("password-file"); file != "" {
				text, err := os.ReadFile(file)
				if err != nil {
					return err
				}
				if config.Password = strings.TrimSpace(string(text)); len(config.Password) < 8 || len(config.Password) > 72 {
					return fmt.Errorf("%s: a password has 8 to 72 bytes", file)
				}
			}
			s, err := service.Start(ctx, config)
			if err != nil {
				return err
			}
			fmt.Fprintf(c.Root().Writer, "Hemble listens at http://%s\n", s.Address)
			if s.Password != "" {
				fmt.Fprintf(c.Root().Writer, "First start: sign in as %s with the password %s\n", config.Name, s.Password)
			}
			return s.Wait(ctx)
		},
	}
}

// The sign-in of the demo; its service listens on this machine only.
const (
	demoName     = "instructor"
	demoPassword = "wherry-lock"
)

func demoCommand() *cli.Command {
	return &cli.Command{
		Name:         "demo",
		Usage:        "run the service with the demo course and its submissions",
		OnUsageError: usage,
		Flags: []cli.Flag{
			&cli.StringFlag{Name: "data", Usage: "a `FOLDER` to keep; without it a new one is used and thrown away"},
			listenFlag,
		},
		Action: runDemo,
	}
}

func runDemo(ctx context.Context, c *cli.Command) (err error) {
	dir := c.String("data")
	if dir == "" {
		if dir, err = os.MkdirTemp("", "hemble-demo-"); err != nil {
			return err
		}
		defer os.RemoveAll(dir)
	}
	slog.SetDefault(slog.New(slog.NewJSONHandler(os.Stderr, &slog.HandlerOptions{Level: slog.LevelWarn})))
	libraries := filepath.Join(dir, "cache", "library")
	if err := os.RemoveAll(libraries); err != nil {
		return err
	}
	if err := os.CopyFS(libraries, demo.Library()); err != nil {
		return err
	}
	s, err := service.Start(ctx, service.Config{Dir: dir, Listen: c.String("listen"), Name: demoName, Password: demoPassword, Console: console.Site(),
		Libraries: []string{libraries}})
	if err != nil {
		return err
	}
	out := c.Root().Writer
	fmt.Fprintf(out, "Hemble listens at http://%s\nSign in as %s with the password %s\n", s.Address, demoName, demoPassword)
	if err := handIn(ctx, s.Address, func(format string, args ...any) { fmt.Fprintf(out, format, args...) }); err != nil && ctx.Err() == nil {
		return errors.Join(err, s.Close())
	}
	fmt.Fprintln(out, "Ctrl-C ends it.")
	return s.Wait(ctx)
}

// handIn brings the demo course into a service, as an instructor would, and waits for its marks.
func handIn(ctx context.Context, address string, say func(string, ...any)) error {
	api := client.New(address, "")
	if _, err := api.SignIn(ctx, demoName, demoPassword); err != nil {
		return err
	}
	course, err := demo.Course()
	if err != nil {
		return err
	}
	waiting := map[string][]string{}
	for _, x := range course {
		if _, problems := exercise.Read(x.Name+"/exercise.yaml", x.Text); exercise.Error(problems) != nil {
			return exercise.Error(problems)
		}
		if _, err := api.PutExercise(ctx, x.Name, x.Text); err != nil {
			return err
		}
		there, err := api.Submissions(ctx, x.Name)
		if err != nil {
			return err
		}
		if len(there) > 0 { // the folder was kept
			continue
		}
		for _, f := range x.Files {
			sub, err := api.Submit(ctx, x.Name, f.Student, f.Name, f.Data)
			if err != nil {
				return err
			}
			waiting[x.Name] = append(waiting[x.Name], sub.ID)
		}
	}
	for _, x := range course {
		marked := 0
		if err := api.Wait(ctx, x.Name, waiting[x.Name], func(wire.Submission) { marked++ }); err != nil {
			return err
		}
		say("%-14s %d submissions marked\n", x.Name, marked)
	}
	return nil
}
