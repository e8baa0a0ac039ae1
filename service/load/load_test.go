// Package load measures a service under the load of a department: on loopback, bounded in number and time, with the
// real binary. `make load` runs it and prints figures; none of it is in `make test`.
package load

import (
	"bufio"
	"context"
	"fmt"
	"io"
	"log/slog"
	"math/rand"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"hemble/client"
	"hemble/demo"
	"hemble/demo/class"
	"hemble/service/servicetest"
	"hemble/wire"
)

func TestMain(m *testing.M) {
	slog.SetDefault(slog.New(slog.DiscardHandler))
	if os.Getenv("HEMBLE_LOAD") == "" {
		fmt.Println("make load runs these")
		os.Exit(0)
	}
	os.Exit(m.Run())
}

// department is a service with a class of that many students, each with a token of their own.
type department struct {
	process  *exec.Cmd
	dir      string
	keeper   *client.Client
	students []*client.Client
	staff    []*client.Client // who mark
	files    []demo.File      // of all exercises, with which they belong to
	of       []string
}

func newDepartment(t *testing.T, students int) *department {
	d := &department{dir: t.TempDir()}
	cmd, url := servicetest.Serve(t, servicetest.Binary(t), d.dir, "127.0.0.1:0")
	d.process, d.keeper = cmd, servicetest.SignIn(t, url, class.Instructor, class.Password)
	require.NoError(t, class.Set(t.Context(), d.keeper, time.Now()))
	course, err := demo.Course()
	require.NoError(t, err)
	for _, x := range course {
		for _, f := range x.Files {
			d.files, d.of = append(d.files, f), append(d.of, x.Name)
		}
	}
	list := "login,name\n"
	for i := range students {
		list += fmt.Sprintf("s%03d,Student %03d\n", i, i)
	}
	_, err = d.keeper.PutRoster(t.Context(), class.Name, []byte(list), false)
	require.NoError(t, err)
	for i := range 30 { // an account has few streams: many who mark
		login := fmt.Sprintf("m%03d", i)
		require.NoError(t,
			d.keeper.PutMember(t.Context(), class.Name, login,
				wire.SetMember{Name: "Marker " + login, Role: wire.Assistant}))
		d.staff = append(d.staff, servicetest.As(t, d.keeper, class.Name, login))
	}
	for i := range students {
		d.students = append(d.students, servicetest.As(t, d.keeper, class.Name, fmt.Sprintf("s%03d", i)))
	}
	return d
}

// different gives the same firmware in a file that no other is the same as: an ELF file may have anything at its end.
func different(f demo.File, n int) []byte {
	noise := make([]byte, 64)
	rand.New(rand.NewSource(int64(n))).Read(noise)
	return append(slices.Clone(f.Data), noise...)
}

// memory reads a figure of a process in MB.
func (d *department) memory(t *testing.T, what string) float64 {
	text, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", d.process.Process.Pid))
	require.NoError(t, err)
	m := regexp.MustCompile(what + `:\s+(\d+) kB`).FindSubmatch(text)
	require.NotNil(t, m)
	kb, err := strconv.ParseFloat(string(m[1]), 64)
	require.NoError(t, err)
	return kb / 1024
}

func at(sorted []time.Duration, share float64) time.Duration {
	return sorted[min(len(sorted)-1, int(share*float64(len(sorted))))]
}

// rush is what came of a rush.
type rush struct {
	p50, p99, most, drained, processor time.Duration
	peak                               float64 // MB
	heard                              int64   // events, by all who listen
}

// hand has 200 students submit within a minute, all of it different work for twelve exercises, while the workers mark
// and that many pages listen: two in three of them the students' own, the others of those who mark.
func (d *department) hand(t *testing.T, listeners int) (r rush) {
	ctx, cancel := context.WithCancel(t.Context())
	var heard atomic.Int64
	var pages sync.WaitGroup
	for i := range listeners {
		c := d.students[i%len(d.students)]
		if i%3 == 2 {
			c = d.staff[i/3%len(d.staff)]
		}
		pages.Go(func() { listen(ctx, c, &heard) })
	}
	time.Sleep(time.Second) // all of them are there
	cpu := d.processor(t)
	var lock sync.Mutex
	var took []time.Duration
	var wait sync.WaitGroup
	random := rand.New(rand.NewSource(1))
	began := time.Now()
	for i, c := range d.students {
		at := time.Duration(random.Int63n(int64(time.Minute)))
		k := i % len(d.files)
		wait.Go(func() {
			time.Sleep(at - time.Since(began))
			start := time.Now()
			_, err := c.Submit(t.Context(), class.Name, d.of[k],
				client.Work{File: d.files[k].Name, Data: different(d.files[k], i)})
			lock.Lock()
			defer lock.Unlock()
			require.NoError(t, err)
			took = append(took, time.Since(start))
		})
	}
	wait.Wait()
	require.Len(t, took, 200)
	for {
		waiting := 0
		all, err := d.keeper.Assignments(t.Context(), class.Name)
		require.NoError(t, err)
		for _, o := range all {
			waiting += o.Waiting
		}
		if waiting == 0 {
			break
		}
		time.Sleep(100 * time.Millisecond)
	}
	r.drained, r.processor, r.peak = time.Since(began), d.processor(t)-cpu, d.memory(t, "VmHWM")
	time.Sleep(500 * time.Millisecond)
	cancel()
	pages.Wait()
	slices.Sort(took)
	r.p50, r.p99, r.most, r.heard = at(took, 0.5), at(took, 0.99), took[199], heard.Load()
	fmt.Printf("rush: 200 students within a minute, %d pages open; acknowledged in p50 %v, p99 %v, at most %v; all marked %.1f s after the first; %.1f s of processor time; at most %.0f MB; %d events heard\n",
		listeners, r.p50.Round(time.Millisecond), r.p99.Round(time.Millisecond), r.most.Round(time.Millisecond),
		r.drained.Seconds(), r.processor.Seconds(), r.peak, r.heard)
	return r
}

// listen reads an event stream until ctx ends.
func listen(ctx context.Context, c *client.Client, heard *atomic.Int64) {
	for ctx.Err() == nil {
		q, err := http.NewRequestWithContext(ctx, http.MethodGet, c.Server+"/api/v1/classes/"+class.Name+"/events", nil)
		if err != nil {
			return
		}
		q.Header.Set("Authorization", "Bearer "+c.Token)
		r, err := http.DefaultClient.Do(q)
		if err != nil {
			continue
		}
		lines := bufio.NewScanner(r.Body)
		for lines.Scan() {
			if lines.Text() == "event: submission" {
				heard.Add(1)
			}
		}
		r.Body.Close()
	}
}

// processor is the processor time that the service has taken.
func (d *department) processor(t *testing.T) time.Duration {
	text, err := os.ReadFile(fmt.Sprintf("/proc/%d/stat", d.process.Process.Pid))
	require.NoError(t, err)
	fields := strings.Fields(string(text[strings.LastIndexByte(string(text), ')')+2:]))
	total := time.Duration(0)
	for _, f := range fields[11:13] {
		n, err := strconv.Atoi(f)
		require.NoError(t, err)
		total += time.Duration(n) * 10 * time.Millisecond
	}
	return total
}

// A rush with nobody listening, and the same with 500 open pages.
func TestRush(t *testing.T) {
	alone := newDepartment(t, 200).hand(t, 0)
	require.Less(t, alone.p99, 250*time.Millisecond)
	require.Less(t, alone.peak, 600.0)
	open := newDepartment(t, 200).hand(t, 500)
	require.Less(t, open.p99, 250*time.Millisecond)
	require.Less(t, open.processor, 2*alone.processor)
	require.Greater(t, open.heard, int64(200*(500/3)), "those who mark hear of every submission")
}

// A page of the list of 10,000 submissions; and what a term's submissions take on the disk, by 2,000 of them.
func TestLongLists(t *testing.T) {
	d := newDepartment(t, 200)
	const submissions = 10_000
	next := make(chan int)
	var wait sync.WaitGroup
	firmware, err := os.ReadFile("../../demo/course/boat-lamps/firmware/marsh-waits.hex")
	require.NoError(t, err)
	for range 8 {
		wait.Go(func() {
			for i := range next {
				for {
					_, err := d.keeper.Submit(t.Context(), class.Name, "boat-lamps",
						client.Work{Student: fmt.Sprintf("s%03d", i%200), File: "lamps.hex",
							Data: fmt.Appendf(slices.Clone(firmware), "%s", strings.Repeat("\n", i))})
					if client.Code(err) == "too-often" {
						time.Sleep(100 * time.Millisecond)
						continue
					}
					require.NoError(t, err)
					break
				}
			}
		})
	}
	for i := range submissions {
		next <- i
	}
	close(next)
	wait.Wait()
	for {
		o, err := d.keeper.Assignment(t.Context(), class.Name, "boat-lamps")
		require.NoError(t, err)
		if o.Waiting == 0 {
			require.Equal(t, submissions, o.Submissions)
			break
		}
		time.Sleep(500 * time.Millisecond)
	}
	var took []time.Duration
	after := ""
	for i := range 200 {
		if i%5 == 0 {
			after = strconv.Itoa(rand.New(rand.NewSource(int64(i))).Intn(submissions))
		}
		start := time.Now()
		p, err := d.keeper.SubmissionPage(t.Context(), class.Name, "boat-lamps",
			client.Filter{Limit: 100, After: after})
		took = append(took, time.Since(start))
		require.NoError(t, err)
		require.Equal(t, submissions, p.Total)
		time.Sleep(20 * time.Millisecond) // within the limits of an account
	}
	slices.Sort(took)
	fmt.Printf("lists: a page of 100 of %d submissions in p50 %v, p95 %v\n", submissions,
		at(took, 0.5).Round(time.Millisecond), at(took, 0.95).Round(time.Millisecond))
	require.Less(t, at(took, 0.95), 100*time.Millisecond)
}

// What a term takes on the disk: 40 exercises × 200 students × 5 attempts, computed from 1,000 submissions of
// different files, all marked.
func TestTermOnDisk(t *testing.T) {
	const sample, term, most = 1000, 40 * 200 * 5, 2 << 30
	d := newDepartment(t, 84) // each of them submits about once for each exercise
	before := size(t, d.dir)
	ids := map[string][]string{}
	for i := range sample {
		k := i % len(d.files)
		for {
			r, err := d.students[i%len(d.students)].Submit(t.Context(), class.Name, d.of[k],
				client.Work{File: d.files[k].Name, Data: different(d.files[k], i)})
			if client.Code(err) == "too-often" {
				time.Sleep(time.Second)
				continue
			}
			require.NoError(t, err)
			ids[d.of[k]] = append(ids[d.of[k]], r.ID)
			break
		}
	}
	for x, list := range ids {
		require.NoError(t,
			d.keeper.Wait(t.Context(), class.Name, x, list,
				func(s wire.Submission) { require.Equal(t, wire.Marked, s.State) }))
	}
	kept := size(t, d.dir)
	each := (kept - before) / sample
	reels := int64(512 << 20) // the usual bound of their cache
	whole := each*term + reels
	fmt.Printf("disk: %.1f kB a submission with its sheet; a term of %d takes %.2f GB, with %d MB of reels\n",
		float64(each)/1000, term, float64(whole)/(1<<30), reels>>20)
	require.Less(t, whole, int64(most))
}

// size adds up a data folder without its caches.
func size(t *testing.T, dir string) (n int64) {
	require.NoError(t, filepath.WalkDir(dir, func(path string, e os.DirEntry, err error) error {
		if err != nil || e.IsDir() && (e.Name() == "reels" || e.Name() == "cache") {
			if err == nil {
				return filepath.SkipDir
			}
			return nil
		}
		if info, err := e.Info(); err == nil && !e.IsDir() {
			n += (info.Size() + 4095) / 4096 * 4096 // as a disk gives it out
		}
		return nil
	}))
	return n
}

// How long others wait while somebody takes a backup of it all.
func TestBackupInBetween(t *testing.T) {
	d := newDepartment(t, 20)
	done := make(chan error, 1)
	go func() {
		var err error
		for range 5 {
			if err = d.keeper.Backup(t.Context(), io.Discard); err != nil {
				break
			}
		}
		done <- err
	}()
	var took []time.Duration
	for i := range 100 {
		start := time.Now()
		r, err := d.students[i%20].HTTP.Get(d.keeper.Server + "/healthz")
		require.NoError(t, err)
		require.Equal(t, http.StatusOK, r.StatusCode)
		r.Body.Close()
		_, err = d.students[i%20].Assignments(t.Context(), class.Name)
		require.NoError(t, err)
		took = append(took, time.Since(start))
		time.Sleep(10 * time.Millisecond)
	}
	require.NoError(t, <-done)
	slices.Sort(took)
	fmt.Printf("backup: others waited p95 %v meanwhile\n", at(took, 0.95).Round(time.Millisecond))
}
