package cli

import (
	"context"
	"fmt"
	"os"
	"strings"

	"github.com/urfave/cli/v3"

	"hemble/client"
	"hemble/wire"
)

func gradebookCommand() *cli.Command {
	return &cli.Command{
		Name:         "gradebook",
		Usage:        "show or export the marks of a class",
		OnUsageError: usage,
		Flags: []cli.Flag{
			classFlag,
			&cli.StringFlag{Name: "exercise",
				Usage: "`NAME` of one exercise; with --csv, a column for each expectation"},
			&cli.BoolFlag{Name: "csv", Usage: "write CSV"},
			&cli.StringFlag{Name: "fill", Usage: "fill in --column of the school's own CSV `FILE`"},
			&cli.StringFlag{Name: "column", Usage: "`HEADING` of the column to fill in"},
			&cli.StringFlag{Name: "students",
				Usage: "`HEADING` of the column that identifies students (default: the best match)"},
			&cli.StringFlag{Name: "sheets",
				Usage: "write every student's mark sheet to a zip `FILE`, with --exercise"},
			formatFlag,
		},
		Action: showGradebook,
	}
}

func showGradebook(ctx context.Context, c *cli.Command) error {
	api, class, err := inClass(c)
	if err != nil {
		return err
	}
	out, exercise := c.Root().Writer, c.String("exercise")
	switch {
	case c.String("sheets") != "":
		if exercise == "" {
			return misused("--sheets goes with --exercise")
		}
		return toFile(c.String("sheets"), func(f *os.File) error { return api.Sheets(ctx, class, exercise, f) })
	case c.String("fill") != "":
		return fillFile(ctx, c, api, class)
	case c.Bool("csv"):
		text, err := api.GradebookCSV(ctx, class, exercise)
		if err != nil {
			return err
		}
		_, err = out.Write(text)
		return err
	}
	book, err := api.Gradebook(ctx, class)
	if err != nil {
		return err
	}
	if c.String("format") == "json" {
		return writeJSON(out, book)
	}
	return writeGradebook(c, book, exercise)
}

func writeGradebook(c *cli.Command, book wire.Gradebook, only string) error {
	known := only == ""
	for _, x := range book.Exercises {
		known = known || x.Exercise == only
	}
	if !known {
		return fmt.Errorf("nothing called %q is open to %s", only, book.Class)
	}
	shown := func(i int) bool { return only == "" || book.Exercises[i].Exercise == only }
	rows := [][]string{{"student"}}
	for i, x := range book.Exercises {
		if shown(i) {
			rows[0] = append(rows[0], fmt.Sprintf("%s /%s", x.Exercise, short(string(x.Of))))
		}
	}
	rows[0] = append(rows[0], "total")
	for _, r := range book.Rows {
		row := []string{r.Name}
		for i, cell := range r.Cells {
			if !shown(i) {
				continue
			}
			text := string(cell.Marks)
			switch {
			case cell.Waiting && text == "":
				text = "…"
			case text == "":
				text = "–"
			}
			if cell.Overridden {
				text += "*"
			}
			if cell.Submission != "" && cell.Percent < 100 {
				text += fmt.Sprintf(" (late, %d %%)", cell.Percent)
			}
			row = append(row, text)
		}
		rows = append(rows, append(row, string(r.Total)))
	}
	return table(c, rows)
}

// short writes a number without zeros that say nothing: 7.50 as 7.5, and 10 as it is.
func short(number string) string {
	if !strings.Contains(number, ".") {
		return number
	}
	return strings.TrimSuffix(strings.TrimRight(number, "0"), ".")
}

func fillFile(ctx context.Context, c *cli.Command, api *client.Client, class string) error {
	if c.String("column") == "" {
		return misused("--fill goes with --column")
	}
	text, err := os.ReadFile(c.String("fill"))
	if err != nil {
		return err
	}
	f, err := api.Fill(ctx, class, text, c.String("column"), c.String("exercise"), c.String("students"))
	if err != nil {
		return err
	}
	for _, name := range f.Unknown {
		fmt.Fprintf(os.Stderr, "≈ %s is in the file and not in the class\n", name)
	}
	for _, name := range f.Without {
		fmt.Fprintf(os.Stderr, "≈ %s is in the class and not in the file\n", name)
	}
	fmt.Fprintf(os.Stderr, "%d marks filled in; the file is %s, students are identified by %q\n", f.Filled, f.Encoding,
		f.Students)
	_, err = c.Root().Writer.Write(f.Data)
	return err
}

// toFile writes a file; one that was not finished does not stay.
func toFile(path string, write func(*os.File) error) error {
	f, err := os.OpenFile(path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	err = write(f)
	if closing := f.Close(); err == nil {
		err = closing
	}
	if err != nil {
		os.Remove(path)
	}
	return err
}
