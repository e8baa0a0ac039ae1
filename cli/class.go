package cli

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"text/tabwriter"

	"github.com/urfave/cli/v3"

	"hemble/client"
	"hemble/wire"
)

func classCommand() *cli.Command {
	return &cli.Command{
		Name:         "class",
		Usage:        "manage classes: members, roster, join code, libraries",
		OnUsageError: usage,
		Commands: []*cli.Command{
			{Name: "list", Usage: "list your classes", OnUsageError: usage, Flags: []cli.Flag{formatFlag},
				Action: listClasses},
			{Name: "add", Usage: "create a class", ArgsUsage: "NAME TITLE", OnUsageError: usage, Action: addClass},
			{Name: "use", Usage: "set the default class for other commands", ArgsUsage: "NAME", OnUsageError: usage,
				Action: useClass},
			{Name: "members", Usage: "list the members", OnUsageError: usage,
				Flags: []cli.Flag{classFlag, formatFlag}, Action: listMembers},
			{Name: "member", Usage: "add or change a member", ArgsUsage: "LOGIN NAME", OnUsageError: usage,
				Flags: []cli.Flag{classFlag,
					&cli.StringFlag{Name: "role", Value: string(wire.Student),
						Usage: "`ROLE` in the class: instructor, assistant or student"},
					&cli.StringFlag{Name: "group", Usage: "lab `GROUP`"},
					&cli.StringFlag{Name: "number", Usage: "student `NUMBER` at the school"}}, Action: putMember},
			{Name: "roster",
				Usage:     "import students from a CSV file with the columns login, name, number and group, or print the roster",
				ArgsUsage: "[FILE]", OnUsageError: usage,
				Flags:  []cli.Flag{classFlag, &cli.BoolFlag{Name: "dry-run", Usage: "only show what would change"}},
				Action: takeRoster},
			{Name: "link",
				Usage:     "create one-time sign-in links, by default for every student who has not signed in and has none",
				ArgsUsage: "[LOGIN…]", OnUsageError: usage, Flags: []cli.Flag{classFlag}, Action: memberLinks},
			{Name: "join-code", Usage: "create a new join code", OnUsageError: usage,
				Flags:  []cli.Flag{classFlag, &cli.BoolFlag{Name: "remove", Usage: "remove the join code"}},
				Action: joinCode},
			{Name: "library", Usage: "upload a library folder that source may include, or list the libraries",
				ArgsUsage: "[FOLDER]", OnUsageError: usage, Flags: []cli.Flag{classFlag}, Action: classLibrary},
		},
	}
}

// table writes rows in columns.
func table(c *cli.Command, rows [][]string) error {
	w := tabwriter.NewWriter(c.Root().Writer, 0, 0, 2, ' ', 0)
	for _, r := range rows {
		if _, err := fmt.Fprintln(w, strings.Join(r, "\t")); err != nil {
			return err
		}
	}
	return w.Flush()
}

func listClasses(ctx context.Context, c *cli.Command) error {
	api, err := signedIn()
	if err != nil {
		return err
	}
	all, err := api.Classes(ctx)
	if err != nil {
		return err
	}
	if c.String("format") == "json" {
		return writeJSON(c.Root().Writer, all)
	}
	rows := [][]string{{"class", "title", "you are", "students", "exercises", "waiting"}}
	for _, x := range all {
		rows = append(rows, []string{x.Name, x.Title, string(x.Role), fmt.Sprint(x.Students), fmt.Sprint(x.Exercises),
			fmt.Sprint(x.Waiting)})
	}
	return table(c, rows)
}

func addClass(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() != 2 {
		return misused("class add expects a name and a title: hemble class add lock-house \"Wherry Lock, first year\"")
	}
	api, err := signedIn()
	if err != nil {
		return err
	}
	made, err := api.AddClass(ctx, c.Args().Get(0), c.Args().Get(1))
	if err != nil {
		return err
	}
	fmt.Fprintf(c.Root().Writer, "made %s, %s\n", made.Name, made.Title)
	return nil
}

func useClass(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() != 1 {
		return misused("class use expects a class's name")
	}
	api, err := signedIn()
	if err != nil {
		return err
	}
	class, err := api.Class(ctx, c.Args().First())
	if err != nil {
		return err
	}
	s, err := readSettings()
	if err != nil {
		return err
	}
	s.Class = class.Name
	return writeSettings(s)
}

func listMembers(ctx context.Context, c *cli.Command) error {
	api, class, err := inClass(c)
	if err != nil {
		return err
	}
	all, err := api.Members(ctx, class)
	if err != nil {
		return err
	}
	if c.String("format") == "json" {
		return writeJSON(c.Root().Writer, all)
	}
	rows := [][]string{{"login", "name", "role", "group", "number", "has a password"}}
	for _, m := range all {
		yes := "no"
		if m.SignedIn {
			yes = "yes"
		}
		rows = append(rows, []string{m.Login, m.Name, string(m.Role), m.Group, m.Number, yes})
	}
	return table(c, rows)
}

func putMember(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() != 2 {
		return misused("class member expects a login and a name")
	}
	api, class, err := inClass(c)
	if err != nil {
		return err
	}
	return api.PutMember(ctx, class, c.Args().Get(0),
		wire.SetMember{Name: c.Args().Get(1), Role: wire.Role(c.String("role")), Group: c.String("group"),
			Number: c.String("number")})
}

func takeRoster(ctx context.Context, c *cli.Command) error {
	api, class, err := inClass(c)
	if err != nil {
		return err
	}
	out := c.Root().Writer
	if c.Args().Len() == 0 {
		text, err := api.Roster(ctx, class)
		if err != nil {
			return err
		}
		_, err = out.Write(text)
		return err
	}
	text, err := readBounded(c.Args().First())
	if err != nil {
		return err
	}
	r, err := api.PutRoster(ctx, class, text, c.Bool("dry-run"))
	if err != nil {
		return err
	}
	for _, m := range r.Added {
		fmt.Fprintf(out, "+ %s, %s\n", m.Login, m.Name)
	}
	for _, m := range r.Changed {
		fmt.Fprintf(out, "≈ %s, %s\n", m.Login, m.Name)
	}
	for _, m := range r.Missing {
		fmt.Fprintf(out, "· %s, %s is in the class and not in the file: stays\n", m.Login, m.Name)
	}
	for _, w := range r.Wrong {
		fmt.Fprintf(os.Stderr, "%s:%d: %s\n", c.Args().First(), w.Line, w.Text)
	}
	done := "nothing was changed: --dry-run"
	if !c.Bool("dry-run") {
		done = "taken in"
	}
	fmt.Fprintf(out, "%d new, %d changed, %d missing, %d wrong; %s\n", len(r.Added), len(r.Changed), len(r.Missing),
		len(r.Wrong), done)
	if len(r.Wrong) > 0 {
		return errTold
	}
	return nil
}

func memberLinks(ctx context.Context, c *cli.Command) error {
	api, class, err := inClass(c)
	if err != nil {
		return err
	}
	if c.Args().Len() == 0 {
		return linksForAll(ctx, c, api, class)
	}
	for _, login := range c.Args().Slice() {
		l, err := api.MemberLink(ctx, class, login)
		if err != nil {
			return fmt.Errorf("%s: %w", login, err)
		}
		fmt.Fprintf(c.Root().Writer, "%s  %s%s\n", login, api.Server, l.Path)
	}
	return nil
}

func linksForAll(ctx context.Context, c *cli.Command, api *client.Client, class string) error {
	made, err := api.MemberLinks(ctx, class, nil)
	if err != nil {
		return err
	}
	for _, l := range made.Links {
		fmt.Fprintf(c.Root().Writer, "%s  %s%s\n", l.Login, api.Server, l.Path)
	}
	for _, m := range made.Kept {
		fmt.Fprintf(os.Stderr, "≈ %s has a link already, which stays; class link %s makes another in its place\n",
			m.Login, m.Login)
	}
	return nil
}

func joinCode(ctx context.Context, c *cli.Command) error {
	api, class, err := inClass(c)
	if err != nil {
		return err
	}
	if c.Bool("remove") {
		return api.DropJoinCode(ctx, class)
	}
	x, err := api.NewJoinCode(ctx, class)
	if err != nil {
		return err
	}
	fmt.Fprintln(c.Root().Writer, x.JoinCode)
	return nil
}

func classLibrary(ctx context.Context, c *cli.Command) error {
	api, class, err := inClass(c)
	if err != nil {
		return err
	}
	if c.Args().Len() == 0 {
		return listLibraries(ctx, c, api, class)
	}
	for _, dir := range c.Args().Slice() {
		archive, err := zipFolder(dir, nil)
		if err != nil {
			return err
		}
		if err := api.PutLibrary(ctx, class, filepath.Base(filepath.Clean(dir)), archive); err != nil {
			return err
		}
	}
	return nil
}

func listLibraries(ctx context.Context, c *cli.Command, api *client.Client, class string) error {
	all, err := api.Libraries(ctx, class)
	if err != nil {
		return err
	}
	rows := [][]string{{"library", "headers", "registered"}}
	for _, l := range all {
		rows = append(rows, []string{l.Name, strings.Join(l.Headers, " "), l.Created.Format("2006-01-02")})
	}
	return table(c, rows)
}

// zipFolder packs the plain files of a folder, without hidden ones; instead has other contents of some.
func zipFolder(dir string, instead map[string][]byte) ([]byte, error) {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	err := filepath.WalkDir(dir, func(path string, d os.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if strings.HasPrefix(d.Name(), ".") && path != dir {
			if d.IsDir() {
				return filepath.SkipDir
			}
			return nil
		}
		if !d.Type().IsRegular() {
			return nil
		}
		data, err := readBounded(path)
		if err != nil {
			return err
		}
		inside, err := filepath.Rel(dir, path)
		if err != nil {
			return err
		}
		if other, ok := instead[filepath.ToSlash(inside)]; ok {
			data = other
		}
		w, err := z.Create(filepath.ToSlash(inside))
		if err != nil {
			return err
		}
		_, err = w.Write(data)
		return err
	})
	if err != nil {
		return nil, err
	}
	err = z.Close()
	return b.Bytes(), err
}
