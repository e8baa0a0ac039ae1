package cli

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net/netip"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/urfave/cli/v3"

	"hemble/client"
	"hemble/console"
	"hemble/core/exercise"
	"hemble/demo"
	"hemble/demo/class"
	"hemble/service"
	"hemble/service/api"
	"hemble/service/db"
	"hemble/wire"
)

var listenFlag = &cli.StringFlag{Name: "listen", Value: "127.0.0.1:8080", Usage: "`ADDRESS` to listen on",
	Sources: cli.EnvVars("HEMBLE_LISTEN")}

func serveCommand() *cli.Command {
	return &cli.Command{
		Name:         "serve",
		Usage:        "run the service and its web console",
		Description:  "On first start the service prints a set-up link for creating the first account, or creates the account given by --login and --password-file.",
		OnUsageError: usage,
		Flags: []cli.Flag{
			&cli.StringFlag{Name: "data", Value: "hemble-data", Usage: "data `FOLDER`",
				Sources: cli.EnvVars("HEMBLE_DATA")},
			listenFlag,
			&cli.StringFlag{Name: "login",
				Usage: "`LOGIN` of the account created on first start, instead of a set-up link"},
			&cli.StringFlag{Name: "name", Usage: "full `NAME` of the first account"},
			&cli.StringFlag{Name: "password-file", Usage: "`FILE` with the password of the first account"},
			libraryFlag,
			&cli.StringFlag{Name: "tls-cert", Usage: "TLS certificate `FILE`",
				Sources: cli.EnvVars("HEMBLE_TLS_CERT")},
			&cli.StringFlag{Name: "tls-key", Usage: "TLS key `FILE`", Sources: cli.EnvVars("HEMBLE_TLS_KEY")},
			&cli.StringFlag{Name: "base-path", Usage: "`PATH` under which a proxy serves Hemble, such as /hemble",
				Sources: cli.EnvVars("HEMBLE_BASE_PATH")},
			&cli.StringSliceFlag{Name: "trust-proxy",
				Usage:   "address or `NETWORK` of a proxy whose forwarding headers are trusted; repeatable",
				Sources: cli.EnvVars("HEMBLE_TRUST_PROXY")},
			&cli.IntFlag{Name: "workers", Usage: "`NUMBER` of submissions marked in parallel",
				DefaultText: "one per processor", Sources: cli.EnvVars("HEMBLE_WORKERS")},
			&cli.IntFlag{Name: "reels", Value: 512, Usage: "size of the reel cache in `MB`"},
		},
		Action: serve,
	}
}

// maxWorkers is how many submissions may be marked at a time: each holds its programs and reels in memory.
const maxWorkers = 256

func serve(ctx context.Context, c *cli.Command) error {
	slog.SetDefault(slog.New(slog.NewJSONHandler(os.Stderr, nil)))
	config := service.Config{Dir: c.String("data"), Listen: c.String("listen"), Console: console.Site(),
		Libraries: c.StringSlice("library"),
		Cert:      c.String("tls-cert"), Key: c.String("tls-key"),
		BasePath: strings.TrimRight(c.String("base-path"), "/"),
		Limits:   api.DefaultLimits, MostReels: int64(c.Int("reels")) << 20}
	if c.Int("reels") < 1 {
		return misused("--reels expects 1 MB or more, not %d", c.Int("reels"))
	}
	if c.IsSet("workers") {
		if config.Workers = c.Int("workers"); config.Workers < 1 || config.Workers > maxWorkers {
			return misused("--workers expects 1 to %d, not %d", maxWorkers, config.Workers)
		}
	}
	for _, text := range c.StringSlice("trust-proxy") {
		p, err := netip.ParsePrefix(text)
		if a, addrErr := netip.ParseAddr(text); addrErr == nil {
			p, err = netip.PrefixFrom(a, a.BitLen()), nil
		}
		if err != nil {
			return misused("--trust-proxy expects an address or a network, as 10.0.0.0/8, not %q", text)
		}
		config.Trusted = append(config.Trusted, p)
	}
	if login := c.String("login"); login != "" {
		if c.String("password-file") == "" {
			return misused("--login goes with --password-file")
		}
		text, err := os.ReadFile(c.String("password-file"))
		if err != nil {
			return err
		}
		config.First.Login, config.First.Name = login, c.String("name")
		config.First.Password = strings.TrimSpace(string(text))
		if config.First.Name == "" {
			config.First.Name = login
		}
	}
	s, err := service.Start(ctx, config)
	if db.Full(err) {
		return fmt.Errorf("the disk of %s takes nothing: %w", config.Dir, err)
	}
	if err != nil {
		return err
	}
	fmt.Fprintf(c.Root().Writer, "Hemble listens at %s\n", s.URL(config))
	if s.SetUp != "" {
		fmt.Fprintf(c.Root().Writer, "First start: make the first account at %s/setup#%s\n", s.URL(config), s.SetUp)
	}
	return s.Wait(ctx)
}

func demoCommand() *cli.Command {
	return &cli.Command{
		Name:         "demo",
		Usage:        "run the service with the demo course",
		OnUsageError: usage,
		Flags: []cli.Flag{
			&cli.StringFlag{Name: "data", Usage: "data `FOLDER` (default: a temporary one)"},
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
	config := service.Config{Dir: dir, Listen: c.String("listen"), Console: console.Site()}
	config.First.Login, config.First.Name, config.First.Password = class.Instructor, "I. Keeper", class.Password
	s, err := service.Start(ctx, config)
	if err != nil {
		return err
	}
	out := c.Root().Writer
	fmt.Fprintf(out, "Hemble listens at %s\nSign in as %s, %s or %s with the password %s\n", s.URL(config),
		class.Instructor, class.Assistant, class.Student, class.Password)
	if err := handIn(ctx, s.URL(config),
		func(format string, args ...any) { fmt.Fprintf(out, format, args...) }); err != nil && ctx.Err() == nil {
		return errors.Join(err, s.Close())
	}
	fmt.Fprintln(out, "Ctrl-C ends it.")
	return s.Wait(ctx)
}

// handIn brings the demo course into a service and waits for its marks.
func handIn(ctx context.Context, address string, say func(string, ...any)) error {
	api := client.New(address, "")
	if _, err := api.SignIn(ctx, class.Instructor, class.Password); err != nil {
		return err
	}
	course, err := demo.Course()
	if err != nil {
		return err
	}
	for _, x := range course {
		if _, problems := exercise.Read(filepath.Join(x.Name, "exercise.yaml"),
			x.Text); exercise.Error(problems) != nil {
			return exercise.Error(problems)
		}
	}
	if err := class.Set(ctx, api, time.Now()); err != nil {
		return err
	}
	waiting := map[string][]string{}
	for _, x := range course {
		if waiting[x.Name], err = class.HandIn(ctx, api, x, nil); err != nil {
			return err
		}
	}
	for _, x := range course {
		marked := 0
		if err := api.Wait(ctx, class.Name, x.Name, waiting[x.Name], func(wire.Submission) { marked++ }); err != nil {
			return err
		}
		say("%-14s %d submissions marked\n", x.Name, marked)
	}
	return nil
}
