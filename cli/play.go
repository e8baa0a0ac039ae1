package cli

import (
	"context"
	"fmt"
	"os"
	"strings"
	"time"

	tea "github.com/charmbracelet/bubbletea"
	"github.com/charmbracelet/lipgloss"
	"github.com/urfave/cli/v3"
	"golang.org/x/term"

	"hemble/core/bench"
	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/firmware"
	"hemble/core/part"
	"hemble/live"
	"hemble/render"
)

func playCommand() *cli.Command {
	return &cli.Command{
		Name:         "play",
		Usage:        "run a firmware live: displays in the terminal, inputs from the keyboard",
		ArgsUsage:    "EXERCISE [FIRMWARE]",
		Description:  "The displays are shown as seen, about a sixth of a second late. A bench without a chip takes no firmware.",
		OnUsageError: usage,
		Flags: []cli.Flag{
			&cli.StringFlag{Name: "trial",
				Usage: "`NAME` of the trial whose seed is used (default: the first)"},
			libraryFlag,
			&cli.BoolFlag{Name: "cues", Usage: "also run the trial's own cues"},
			plainFlag,
		},
		Action: play,
	}
}

func play(ctx context.Context, c *cli.Command) error {
	if c.Args().Len() < 1 || c.Args().Len() > 2 {
		return misused("play expects an exercise and one firmware: hemble play EXERCISE FIRMWARE")
	}
	x, err := readExercise(c.Args().First())
	if err != nil {
		return err
	}
	t, err := findTrial(x, c.String("trial"))
	if err != nil {
		return err
	}
	name := "no firmware"
	var im *firmware.Image
	if x.Chip != nil || c.Args().Len() == 2 {
		if c.Args().Len() != 2 {
			return misused("play expects an exercise and one firmware: hemble play EXERCISE FIRMWARE")
		}
		name = c.Args().Get(1)
		if x, im, err = newSources(c).image(ctx, x, name); err != nil {
			return err
		}
	}
	if !term.IsTerminal(int(os.Stdout.Fd())) || !term.IsTerminal(int(os.Stdin.Fd())) {
		return misused("play needs a terminal to show displays and take keys; `hemble grade` and `hemble trace --on` do without")
	}
	p, err := newPlayer(ctx, x, t, im, name, c.Bool("cues"), bench.Options{Reference: c.Bool("reference")})
	if err != nil {
		return err
	}
	defer func() { p.bench.Close() }() // which it may have begun anew
	_, err = tea.NewProgram(p, tea.WithAltScreen(), tea.WithContext(ctx)).Run()
	return err
}

// player is the state of a live bench: a model of bubbletea.
type player struct {
	ctx      context.Context
	start    func() (*bench.Bench, error)
	bench    *bench.Bench
	title    string
	controls []control
	typing   *control // whose text is being entered
	text     string
	paused   bool
	speed    int // index of speeds
	log      bool
	last     time.Time // of the last tick
	share    float64   // of the asked speed that was reached
	width    int
	message  string
}

// control is a part's control bound to a key of the keyboard. Its upper-case key steps back through values.
type control struct {
	part.Control
	part string
	key  string
	held bool
}

// frame is the time between two pictures.
const frame = 33 * time.Millisecond

var speeds = []float64{0.01, 0.1, 0.25, 0.5, 1, 2, 5, 10}

const normalSpeed = 4

func newPlayer(ctx context.Context, x *exercise.Exercise, t *exercise.Trial, im *firmware.Image, name string, cues bool,
	o bench.Options) (*player, error) {
	trial := *t
	trial.Length = live.Longest
	if !cues {
		trial.Cues = nil
	}
	p := &player{ctx: ctx, title: x.Title + " · " + name, speed: normalSpeed, width: 100, share: 1,
		start: func() (*bench.Bench, error) { return bench.New(x, &trial, im, o) }}
	var err error
	if p.bench, err = p.start(); err != nil {
		return nil, err
	}
	p.bind(x.Parts)
	return p, nil
}

// reserved are the keys of the player itself.
const reserved = "qlr"

// bind gives every control a key.
func (p *player) bind(parts []*part.Instance) {
	for _, b := range live.Bind(parts, reserved) {
		if b.Key != "" {
			p.controls = append(p.controls, control{Control: b.Control, part: b.Part, key: b.Key})
		}
	}
}

type tick time.Time

func (p *player) wait() tea.Cmd {
	return tea.Tick(frame, func(t time.Time) tea.Msg { return tick(t) })
}

// Init starts the clock.
func (p *player) Init() tea.Cmd { return p.wait() }

// Update takes a key, a new size of the terminal, or the next picture's moment.
func (p *player) Update(message tea.Msg) (tea.Model, tea.Cmd) {
	switch m := message.(type) {
	case tea.WindowSizeMsg:
		p.width = m.Width
	case tea.KeyMsg:
		return p, p.key(m)
	case tick:
		now := time.Time(m)
		if !p.last.IsZero() && !p.paused {
			p.advance(min(now.Sub(p.last), 3*frame))
		}
		p.last = now
		return p, p.wait()
	}
	return p, nil
}

// advance lets as much simulated time go by as real time did, by the speed; at most until the next picture is
// due.
func (p *player) advance(real time.Duration) {
	want := clock.Time(float64(real.Nanoseconds()) * speeds[p.speed] * float64(clock.Nanosecond))
	from, began := p.bench.Now(), time.Now()
	for p.bench.Now() < from+want && time.Since(began) < frame {
		if err := p.bench.Advance(p.ctx, min(from+want, p.bench.Now()+5*clock.Millisecond)); err != nil {
			p.message = err.Error()
			return
		}
	}
	reached := 1.0
	if want > 0 {
		reached = float64(p.bench.Now()-from) / float64(want)
	}
	p.share = 0.9*p.share + 0.1*min(1, reached)
}

func (p *player) key(m tea.KeyMsg) tea.Cmd {
	if p.typing != nil {
		p.enter(m)
		return nil
	}
	switch m.String() {
	case "q", "ctrl+c", "esc":
		return tea.Quit
	case " ":
		p.paused = !p.paused
	case "+", "=":
		p.speed = min(len(speeds)-1, p.speed+1)
	case "-":
		p.speed = max(0, p.speed-1)
	case "l":
		p.log = !p.log
	case "r":
		if b, err := p.start(); err != nil {
			p.message = err.Error()
		} else {
			p.bench.Close()
			p.bench = b
			for i := range p.controls {
				p.controls[i].held = false
			}
		}
	default:
		for i := range p.controls {
			if c := &p.controls[i]; m.String() == c.key || len(c.Values) > 0 && m.String() == strings.ToUpper(c.key) {
				p.operate(c, m.String() != c.key)
			}
		}
	}
	return nil
}

// operate does what a control's key asks.
func (p *player) operate(c *control, back bool) {
	cue := c.Cue
	switch {
	case cue.Verb == part.Type:
		p.typing, p.text = c, ""
		return
	case cue.Verb == part.Hold:
		if c.held = !c.held; !c.held {
			cue.Verb = part.Release
		}
	case len(c.Values) > 0:
		if back {
			c.At = max(0, c.At-1)
		} else if len(c.Values) == 2 {
			c.At = 1 - c.At
		} else {
			c.At = min(len(c.Values)-1, c.At+1)
		}
		cue.To = c.Values[c.At]
	}
	p.bench.Cue(exercise.Cue{At: p.bench.Now(), Part: c.part, Cue: cue})
}

// enter takes the keys of a text.
func (p *player) enter(m tea.KeyMsg) {
	switch m.Type {
	case tea.KeyEnter:
		p.bench.Cue(exercise.Cue{At: p.bench.Now(), Part: p.typing.part,
			Cue: part.Cue{Verb: part.Type, Text: p.text + "\n"}})
		p.typing = nil
	case tea.KeyEsc, tea.KeyCtrlC:
		p.typing = nil
	case tea.KeyBackspace:
		if r := []rune(p.text); len(r) > 0 {
			p.text = string(r[:len(r)-1])
		}
	case tea.KeyRunes, tea.KeySpace:
		p.text += string(m.Runes)
	}
}

var (
	faint  = lipgloss.NewStyle().Faint(true)
	strong = lipgloss.NewStyle().Bold(true)
	well   = lipgloss.NewStyle().Border(lipgloss.RoundedBorder()).BorderForeground(lipgloss.Color("#4f5d5c"))
)

// View draws the displays side by side, as many as fit, then what the keys do.
func (p *player) View() string {
	var b strings.Builder
	state := fmt.Sprintf("%s   %g×", p.bench.Now(), speeds[p.speed])
	switch {
	case p.paused:
		state += " paused"
	case p.share < 0.9:
		state += fmt.Sprintf(" (this machine reaches %.2g×)", speeds[p.speed]*p.share)
	}
	b.WriteString(strong.Render(p.title) + "   " + state + "\n" + faint.Render(strings.Repeat("─", p.width)) + "\n\n")
	row, wide := []string{}, 0
	flush := func() {
		b.WriteString(lipgloss.JoinHorizontal(lipgloss.Top, row...) + "\n\n")
		row, wide = row[:0], 0
	}
	for _, t := range p.bench.Live() {
		d := showing(t)
		if w := lipgloss.Width(d) + 3; wide+w > p.width && wide > 0 {
			flush()
		}
		row, wide = append(row, d, "   "), wide+lipgloss.Width(d)+3
	}
	flush()
	if stop := p.bench.Stop(); stop != nil {
		b.WriteString(strong.Render("The program stopped at "+stop.At.String()+": "+stop.Text) + "\n\n")
	}
	if p.log {
		b.WriteString(p.logged())
	}
	if p.message != "" {
		b.WriteString(p.message + "\n")
	}
	b.WriteString(p.keys())
	return b.String()
}

// display draws one display under its name, in the colour of its light.
func showing(t display.Track) string {
	style := lipgloss.NewStyle()
	lines, traits := []string{}, t.Geometry.Type().Traits()
	for _, f := range t.Frames {
		if traits.Lines {
			lines = append(lines, f.State.Line)
		} else {
			lines = append(lines, render.Art(&t, f.State)...)
		}
	}
	if n := len(t.Frames); n > 0 && len(t.Geometry.Shapes) > 0 && !traits.Mixes &&
		t.Frames[n-1].State.Lights.Bits() != 0 {
		style = style.Foreground(lipgloss.Color(t.Geometry.Shapes[0].Color))
	}
	drawing := style.Render(strings.Join(lines, "\n"))
	if t.Geometry.Grid == nil && t.Geometry.Pixels == nil { // those have a frame of their own
		drawing = well.Render(drawing)
	}
	return lipgloss.JoinVertical(lipgloss.Left, faint.Render(t.Display), drawing)
}

// logLines is how much of the bus log is shown.
const logLines = 10

func (p *player) logged() string {
	var b strings.Builder
	log := p.bench.Log()
	for _, e := range log[max(0, len(log)-logLines):] {
		b.WriteString(faint.Render(e.At.String()) + "  " + e.Part + "  " + render.Entry(e) + "\n")
	}
	for _, n := range p.bench.Notes() {
		b.WriteString("· " + n.Text + "\n")
	}
	return b.String() + "\n"
}

// keys returns what each key does.
func (p *player) keys() string {
	if p.typing != nil {
		return strong.Render(p.typing.part+" ▸ ") + p.text + "█\n" + faint.Render("Enter sends, Esc leaves") + "\n"
	}
	var b strings.Builder
	before := ""
	for _, c := range p.controls {
		if c.part != before {
			if before != "" {
				b.WriteString("\n")
			}
			b.WriteString(faint.Render(fmt.Sprintf("%-14s", c.part)))
			before = c.part
		}
		what := c.Label
		if len(c.Values) > 0 {
			what += " " + c.Values[c.At]
		}
		if c.held {
			what += " (held)"
		}
		keys := c.key
		if len(c.Values) > 2 {
			keys += "/" + strings.ToUpper(c.key)
		}
		b.WriteString(" " + strong.Render("["+keys+"]") + " " + strings.TrimSpace(what))
	}
	if before != "" {
		b.WriteString("\n")
	}
	return b.String() + faint.Render("[space] pause  [+ -] speed  [l] log  [r] power off and on  [q] quit") + "\n"
}
