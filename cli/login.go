package cli

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"os"
	"strings"

	"github.com/urfave/cli/v3"
	"golang.org/x/term"

	"hemble/client"
	"hemble/wire"
)

func loginCommand() *cli.Command {
	return &cli.Command{
		Name:         "login",
		Usage:        "sign in to a service",
		ArgsUsage:    "ADDRESS",
		Description:  "The session is saved in the user's configuration folder or the file named by HEMBLE_CONFIG. HEMBLE_SERVER, HEMBLE_TOKEN and HEMBLE_CLASS override it.",
		OnUsageError: usage,
		Flags: []cli.Flag{
			&cli.StringFlag{Name: "name", Value: "instructor", Usage: "account `LOGIN`"},
			&cli.BoolFlag{Name: "password-stdin", Usage: "read the password from standard input"},
			&cli.BoolFlag{Name: "token-stdin",
				Usage: "read a personal token from standard input"},
			&cli.BoolFlag{Name: "link-stdin",
				Usage: "read a one-time link or its token from standard input"},
		},
		Action: login,
	}
}

func login(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() != 1 {
		return misused("login expects the service's address: hemble login http://127.0.0.1:8080")
	}
	api := client.New(c.Args().First(), "")
	secret, err := askSecret(c)
	if err != nil {
		return err
	}
	var session *wire.Session
	switch {
	case c.Bool("token-stdin"):
		api.Token = secret
		session, err = api.Session(ctx)
	case c.Bool("link-stdin"):
		if _, token, isLink := strings.Cut(secret, "#"); isLink {
			secret = token
		}
		session, err = api.UseLink(ctx, secret, "")
	default:
		session, err = api.SignIn(ctx, c.String("name"), secret)
	}
	if err != nil {
		return err
	}
	s := settings{Server: api.Server, Token: api.Token}
	if len(session.Classes) == 1 {
		s.Class = session.Classes[0].Name
	}
	if err := writeSettings(s); err != nil {
		return err
	}
	fmt.Fprintf(c.Root().Writer, "signed in to %s as %s", api.Server, session.Login)
	if session.Expires != nil {
		fmt.Fprintf(c.Root().Writer, " until %s", session.Expires.Format("2 January 2006"))
	}
	fmt.Fprintln(c.Root().Writer)
	if s.Class != "" {
		fmt.Fprintf(c.Root().Writer, "the class is %s\n", s.Class)
	}
	return nil
}

func askSecret(c *cli.Command) (string, error) {
	quietly := c.Bool("password-stdin") || c.Bool("token-stdin") || c.Bool("link-stdin")
	if !quietly && term.IsTerminal(int(os.Stdin.Fd())) {
		fmt.Fprint(os.Stderr, "Password: ")
		text, err := term.ReadPassword(int(os.Stdin.Fd()))
		fmt.Fprintln(os.Stderr)
		return string(text), err
	}
	line, err := bufio.NewReader(os.Stdin).ReadString('\n')
	if line == "" && err != nil {
		return "", errors.New("nothing on standard input")
	}
	return strings.TrimRight(line, "\r\n"), nil
}

func logoutCommand() *cli.Command {
	return &cli.Command{
		Name:         "logout",
		Usage:        "sign out of the service",
		OnUsageError: usage,
		Action: func(ctx context.Context, c *cli.Command) error {
			api, err := signedIn()
			if err != nil {
				return err
			}
			s, err := readSettings()
			if err != nil {
				return err
			}
			if err := api.SignOut(ctx); err != nil && client.Code(err) != "sign-in" {
				return err
			}
			return writeSettings(settings{Server: s.Server, Class: s.Class})
		},
	}
}
