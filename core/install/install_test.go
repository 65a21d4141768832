package install_test

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/change"
	"leitstand/core/install"
)

// Nothing here goes by the clock.
var (
	now   = time.Date(2026, 5, 4, 12, 0, 0, 0, time.UTC)
	terms = install.Terms{Until: now.Add(time.Minute), For: time.Minute}
)

// What is run for the commands of these tests.
var (
	reload  = "[i3-msg reload]"
	enable  = "[systemctl enable leitstand-console.service]"
	disable = "[systemctl disable leitstand-console.service]"
	reset   = called("hwdb-reset", "")
)

// called is what reverts a command, as the machine in memory notes it.
func called(name string, arguments ...string) string {
	return fmt.Sprint(change.NewCall(change.About{}, name, arguments...).Undo)
}

func about(serves string) change.About { return change.About{Serves: []string{serves}} }

// first and second are what is wanted one after the other: every kind of change, and some that go.
func first() []install.Item {
	return items("i3",
		change.File{About: about("F6"), Path: "~/.config/leitstand/load-keymaps", Data: []byte("bind F6\n")},
		change.Line{About: about("F6"), Path: "~/.config/i3/config", Text: "include ours", From: "/etc/i3/config"},
		change.Block{
			About: about("F7"), Path: "~/.XCompose", Begins: "# ours begins", Ends: "# ours ends",
			Text: "# ours begins\n<F7> : \"x\"\n# ours ends\n", First: "include \"%L\"\n",
		},
		change.Setting{About: about("F8"), Store: change.Dconf, Key: "/a/delay", To: change.Unsigned(220)},
		change.Setting{About: about("F8"), Store: change.Dconf, Key: "/a/rate", To: change.Unsigned(40)},
		change.Member{About: about("F8"), Store: change.Dconf, Key: "/a/list", Item: "ours"},
		change.Setting{About: about("F9"), Store: change.Keeper, Key: "[kwin]Close", To: change.Texts{"Meta+F4"}},
		change.NewCall(about("F6"), "i3-reload"),
	)
}

func second() []install.Item {
	list := items("i3",
		change.File{About: about("F6"), Path: "~/.config/leitstand/load-keymaps", Data: []byte("bind F6 and F7\n")},
		change.Line{About: about("F6"), Path: "~/.config/i3/config", Text: "include ours", From: "/etc/i3/config"},
		change.Setting{About: about("F8"), Store: change.Dconf, Key: "/a/delay", To: change.Unsigned(300)},
		change.NewCall(about("F6"), "i3-reload"),
	)
	return append(list, items("console",
		change.NewCall(about("F5"), "console-enable"),
		change.File{About: about("F5"), Path: "/etc/leitstand/console.map", Data: []byte("keymap\n")},
		change.NewCall(about("F5"), "hwdb-reset", ""), // there is nothing to be told before
	)...)
}

func items(by string, list ...change.Change) (items []install.Item) {
	for _, c := range list {
		items = append(items, install.Item{Change: c, By: by, Rules: c.Note().Serves})
	}
	return items
}

// inUse is a machine that its user has set up.
func inUse() *memory {
	m := newMemory()
	m.folders["~/.config/i3"] = true
	at := time.Date(2026, 5, 4, 3, 2, 1, 0, time.UTC)
	m.files["~/.config/i3/config"] = install.File{
		Data: []byte("# of the user's own"), Mode: 0o640, UID: 1000, GID: 100, Owned: true, Time: at,
	}
	m.values["dconf /a/list"] = change.Texts{"theirs"}
	m.values["dconf /a/rate"] = change.Raw("1.5")
	m.values["kglobalaccel [kwin]Close"] = change.Texts{"Alt+F4"}
	return m
}

func begin(t *testing.T, m *memory) *install.Session {
	t.Helper()
	s, err := install.Begin(
		install.Installer{Machine: m, Book: m},
		now,
		func() (func(), error) { return func() {}, nil },
	)
	require.NoError(t, err)
	return s
}

func installed(list []install.Item) install.Wanted {
	return install.Wanted{Installed: install.Installed{Machine: "gauge", Items: list}}
}

// run installs in one go.
func run(t *testing.T, m *memory, want install.Wanted) *install.Plan {
	t.Helper()
	s := begin(t, m)
	plan, err := s.Plan(want)
	require.NoError(t, err)
	require.NoError(t, s.Carry(s.Journal, plan, install.Terms{}))
	return plan
}

// What is installed is there; twice does nothing; after an edit only the difference is done, and what is wanted no
// longer is what it was; to want nothing brings every byte back, and its owner, its mode and its time.
func TestInstallAndRestore(t *testing.T) {
	m := inUse()
	had := m.snapshot()
	run(t, m, installed(first()))
	assert.Equal(t, "# of the user's own\ninclude ours\n", string(m.files["~/.config/i3/config"].Data))
	assert.EqualValues(t, 0o640, m.files["~/.config/i3/config"].Mode)
	assert.Equal(t, change.Texts{"theirs", "ours"}, m.values["dconf /a/list"])
	assert.Equal(t, []string{reload}, m.called)

	book := string(m.book)
	assert.True(t, run(t, m, installed(first())).Empty())
	assert.JSONEq(t, book, string(m.book))
	assert.Equal(t, []string{reload}, m.called)

	plan := run(t, m, installed(second()))
	assert.Equal(t, change.Texts{"theirs"}, m.values["dconf /a/list"])
	assert.Equal(t, change.Raw("1.5"), m.values["dconf /a/rate"])
	assert.Equal(t, change.Texts{"Alt+F4"}, m.values["kglobalaccel [kwin]Close"])
	assert.NotContains(t, m.files, "~/.XCompose")
	assert.Equal(t, []string{reload, reload, enable}, m.called)
	for _, s := range plan.Steps {
		for _, w := range s.Writes {
			assert.NotEqual(t, "~/.config/i3/config", w.Path, "it is as it is wanted already")
		}
	}

	run(t, m, install.Wanted{})
	assert.Equal(t, had, m.snapshot())
	assert.Nil(t, m.book)
	assert.Equal(t, []string{disable, reload, reset}, m.called[3:])
}

// What somebody has changed since is said. What is ours goes out of a file or a list of theirs; a value of theirs
// stays when ours is taken back, unless it is forced; an install takes it, and restores what was before all.
func TestDrift(t *testing.T) {
	drifted := func() *memory {
		m := inUse()
		run(t, m, installed(first()))
		f := m.files["~/.config/i3/config"]
		f.Data = append([]byte("# more of theirs\n"), f.Data...)
		m.files["~/.config/i3/config"] = f
		m.values["dconf /a/list"] = change.Texts{"ours", "more"}
		m.values["dconf /a/delay"] = change.Unsigned(111)
		return m
	}
	m := drifted()
	s := begin(t, m)
	plan, err := s.Drifted()
	require.NoError(t, err)
	require.Len(t, plan.Steps, 2, "the value, and the word to a program: the list and the file have what is ours")
	require.Len(t, plan.Steps[0].Writes, 1)
	assert.Equal(t, "/a/delay", plan.Steps[0].Writes[0].Key)
	s.End()

	plan = run(t, m, install.Wanted{})
	var left []string
	for _, d := range plan.Drift {
		if d.Left {
			left = append(left, d.Key)
		}
	}
	assert.Equal(t, []string{"/a/delay"}, left)
	assert.Equal(t, "# more of theirs\n# of the user's own\n", string(m.files["~/.config/i3/config"].Data))
	assert.Equal(t, change.Texts{"more"}, m.values["dconf /a/list"])
	assert.Equal(t, change.Unsigned(111), m.values["dconf /a/delay"])

	// Where one rule goes, what somebody has changed of the others stays, and stays known.
	m = drifted()
	rest := slices.DeleteFunc(first(), func(i install.Item) bool {
		s, ok := i.Change.(change.Setting)
		return ok && s.Key == "/a/rate"
	})
	require.Len(t, rest, len(first())-1)
	narrow := installed(rest)
	narrow.Narrow = true
	run(t, m, narrow)
	assert.Equal(t, change.Raw("1.5"), m.values["dconf /a/rate"])
	assert.Equal(t, change.Unsigned(111), m.values["dconf /a/delay"])
	s = begin(t, m)
	plan, err = s.Drifted()
	require.NoError(t, err)
	assert.Equal(t, "/a/delay", plan.Steps[0].Writes[0].Key)
	s.End()
	run(t, m, install.Wanted{Force: true})
	assert.NotContains(t, m.values, "dconf /a/delay")

	m = drifted()
	run(t, m, install.Wanted{Force: true})
	assert.NotContains(t, m.values, "dconf /a/delay")

	m = drifted()
	run(t, m, installed(first()))
	assert.Equal(t, change.Unsigned(220), m.values["dconf /a/delay"])
	run(t, m, install.Wanted{})
	assert.NotContains(t, m.values, "dconf /a/delay")
	assert.Equal(t, "# more of theirs\n# of the user's own\n", string(m.files["~/.config/i3/config"].Data))
}

// What changes between the plan and the writing is not overwritten, and all that was done is taken back.
func TestChangedBetweenPlanAndWriting(t *testing.T) {
	m := inUse()
	s := begin(t, m)
	plan, err := s.Plan(installed(first()))
	require.NoError(t, err)
	m.values["dconf /a/rate"] = change.Unsigned(9)
	had := m.snapshot()
	require.ErrorIs(t, s.Carry(s.Journal, plan, install.Terms{}), change.ErrChanged)
	assert.Equal(t, had, m.snapshot())
	assert.Nil(t, m.book)
}

// A trial is put back, or kept.
func TestTrial(t *testing.T) {
	for _, kept := range []bool{false, true} {
		m := inUse()
		run(t, m, installed(first()))
		had, called := m.snapshot(), len(m.called)
		s := begin(t, m)
		plan, err := s.Plan(installed(second()))
		require.NoError(t, err)
		require.NoError(t, s.Carry(s.Journal, plan, terms))
		now := m.snapshot()
		require.NotEqual(t, had, now)
		s = begin(t, m)
		_, err = s.Plan(installed(first()))
		require.ErrorIs(t, err, install.ErrTrial)
		if kept {
			asks, err := s.Keep(s.Journal, false)
			require.NoError(t, err)
			assert.False(t, asks)
			assert.Equal(t, now, m.snapshot())
			assert.True(t, run(t, m, installed(second())).Empty())
			continue
		}
		left, err := s.Revert(s.Journal)
		require.NoError(t, errors.Join(left, err))
		assert.Equal(t, had, m.snapshot())
		assert.Equal(t, []string{reload, enable, disable, reload, reset}, m.called[called:])
		assert.True(t, run(t, m, installed(first())).Empty())
	}
}

// At every step that changes something, the run fails, or is killed before it, within it, or behind it: after the next
// command the machine has what it had, or what was wanted, and nothing between, and restoring brings all back.
func TestEveryStepMayFail(t *testing.T) {
	tried := 0
	for _, how := range []string{"fails", "fails behind", "killed", "killed within", "killed behind"} {
		for _, doing := range []string{"install", "edit", "restore", "trial", "revert", "keep", "retry"} {
			for at := 1; ; at++ {
				m := inUse()
				never := m.snapshot()
				do := begun(t, m, doing)
				old := m.snapshot()
				m.step, m.failAt, m.how = 0, at, how
				fails(do)
				if m.step < at {
					break
				}
				tried++
				m.failAt, m.dead = 0, false
				s := begin(t, m)
				if s.Journal.Trial != nil {
					do := func(j *install.Journal) error { left, err := s.Revert(j); return errors.Join(left, err) }
					if doing == "keep" {
						do = func(j *install.Journal) error { _, err := s.Keep(j, true); return err }
					}
					require.NoError(t, do(s.Journal))
				}
				now := m.snapshot()
				whole := inUse()
				again := begun(t, whole, doing)
				again()
				if now != old && now != whole.snapshot() {
					t.Fatalf(
						"%s, %s at step %d: neither old nor new\n%s\n%s\n%s",
						doing,
						how,
						at,
						old,
						now,
						whole.snapshot(),
					)
				}
				run(t, m, install.Wanted{})
				require.Equal(t, never, m.snapshot(), "%s, %s at step %d", doing, how, at)
				if strings.HasPrefix(how, "killed") { // a kill leaves nothing that the next command does not know
					require.Empty(t, m.unmarked, "%s, %s at step %d", doing, how, at)
				}
			}
		}
	}
	t.Logf("%d places to fail at", tried)
	assert.Greater(t, tried, 250)
}

// begun prepares a machine, and returns what is to be done with it.
func begun(t *testing.T, m *memory, doing string) func() {
	t.Helper()
	carry := func(want install.Wanted, until install.Terms) {
		s := begin(t, m)
		plan, err := s.Plan(want)
		if err == nil {
			err = s.Carry(s.Journal, plan, until)
		}
		if err != nil && !errors.Is(err, errFails) {
			panic(fmt.Sprint(doing, ": ", err))
		}
	}
	switch doing {
	case "install":
		return func() { carry(installed(first()), install.Terms{}) }
	case "edit":
		carry(installed(first()), install.Terms{})
		return func() { carry(installed(second()), install.Terms{}) }
	case "restore":
		carry(installed(first()), install.Terms{})
		return func() { carry(install.Wanted{}, install.Terms{}) }
	case "trial":
		return func() { carry(installed(first()), terms) }
	case "retry": // of what could not be written
		carry(installed(first()), install.Terms{})
		m.refused = "~/.config/i3/config"
		carry(install.Wanted{}, install.Terms{})
		m.refused = ""
		return func() {
			_, err := install.Begin(install.Installer{Machine: m, Book: m}, now, func() (func(), error) { return func() {}, nil })
			if err != nil && !errors.Is(err, errFails) {
				panic(fmt.Sprint(doing, ": ", err))
			}
		}
	}
	carry(installed(first()), terms)
	return func() {
		s := begin(t, m)
		var err error
		if doing == "keep" {
			_, err = s.Keep(s.Journal, true)
		} else {
			_, err = s.Revert(s.Journal)
		}
		if err != nil && !errors.Is(err, errFails) {
			panic(fmt.Sprint(doing, ": ", err))
		}
	}
}

// fails does something that may be killed.
func fails(do func()) {
	defer func() {
		if r := recover(); r != nil {
			if _, ok := r.(killed); !ok {
				panic(r)
			}
		}
	}()
	do()
}

// Who puts a trial back goes by the time that passes, ends when it is kept, and does not wait for one that never began.
func TestAwaitEnd(t *testing.T) {
	wait := func(each func(m *memory, passed time.Duration) (ended bool)) (bool, time.Duration) {
		m := inUse()
		s := begin(t, m)
		plan, err := s.Plan(installed(first()))
		require.NoError(t, err)
		require.NoError(t, s.Carry(s.Journal, plan, terms))
		passed := time.Duration(0)
		over := install.AwaitEnd(m, terms.Until, func() time.Time { return now.Add(passed) }, func(d time.Duration) bool {
			passed += d
			return each(m, passed)
		})
		return over, passed
	}
	over, passed := wait(func(*memory, time.Duration) bool { return false })
	assert.True(t, over)
	assert.Equal(t, time.Minute, passed)
	over, passed = wait(func(_ *memory, passed time.Duration) bool { return passed == 3*time.Second })
	assert.True(t, over)
	assert.Equal(t, 3*time.Second, passed)
	over, passed = wait(func(m *memory, passed time.Duration) bool {
		if passed == 20*time.Second {
			s := begin(t, m)
			_, err := s.Keep(s.Journal, true)
			require.NoError(t, err)
		}
		return false
	})
	assert.False(t, over)
	assert.Less(t, passed, 21*time.Second)
	m, passed := inUse(), time.Duration(0)
	over = install.AwaitEnd(
		m,
		terms.Until,
		func() time.Time { return now.Add(passed) },
		func(d time.Duration) bool { passed += d; return false },
	)
	assert.False(t, over)
	assert.Less(t, passed, 11*time.Second)
}

// A trial of what takes effect at log-in waits for that, lasts from then on, and nobody is asked when it is kept.
func TestTrialAtLogIn(t *testing.T) {
	m := inUse()
	had := m.snapshot()
	list := append(items("xkb", change.File{Path: "~/.config/leitstand/keymap.xkb", Data: []byte("ours\n")}),
		install.LoginJob("/usr/bin/leitstand"), install.RestoreEntry("/opt/it's \"here\" $x/leitstand"))
	list[0].Takes = "at log-in"
	s := begin(t, m)
	plan, err := s.Plan(installed(list))
	require.NoError(t, err)
	require.True(t, plan.AtLogin())
	atLogin := terms
	atLogin.Login = true
	require.NoError(t, s.Carry(s.Journal, plan, atLogin))
	asks, err := s.Keep(s.Journal, false)
	require.NoError(t, err)
	require.True(t, asks)
	twice := inUse()
	twice.book, twice.files, twice.folders = m.book, maps.Clone(m.files), maps.Clone(m.folders)
	s = begin(t, twice)
	asks, err = s.Keep(s.Journal, false)
	require.NoError(t, err)
	require.False(t, asks, "kept once more it stays")
	s, err = install.Begin(install.Installer{Machine: m, Book: m}, now.Add(time.Hour), func() (func(), error) {
		return func() {}, nil
	})
	require.NoError(t, err)
	require.NotNil(t, s.Journal.Trial, "it waits")
	require.NoError(t, s.Prolong(s.Journal, now.Add(time.Hour)))
	assert.Equal(t, now.Add(time.Hour+time.Minute), s.Journal.Trial.Until)
	asks, err = s.Keep(s.Journal, true)
	require.NoError(t, err)
	assert.False(t, asks)
	assert.NotContains(t, m.files, "~/.config/autostart/leitstand-trial.desktop")
	assert.Contains(t, string(m.files["~/.local/share/applications/leitstand-restore.desktop"].Data),
		`Exec="/opt/it's \\"here\\" \\$x/leitstand" restore --yes`)
	run(t, m, install.Wanted{})
	assert.Equal(t, had, m.snapshot())
}

// A journal is read whatever stands in it, or refused; one of a newer program names that.
func FuzzOpen(f *testing.F) {
	m := inUse()
	s, _ := install.Begin(install.Installer{Machine: m, Book: m}, now, func() (func(), error) { return func() {}, nil })
	plan, _ := s.Plan(installed(first()))
	_ = s.Carry(s.Journal, plan, terms)
	f.Add(m.book)
	f.Add([]byte(`{"format":"leitstand journal","version":2,"changes":[{"change":{"kind":"file"}}],"places":[{}]}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		m := inUse()
		m.book = data
		_, _ = install.Begin(
			install.Installer{Machine: m, Book: m},
			now,
			func() (func(), error) { return func() {}, nil },
		)
	})
}

func TestJournalOfANewerProgram(t *testing.T) {
	m := inUse()
	for book, want := range map[string]string{
		`{"format":"leitstand journal","version":3}`: "installed by a newer leitstand (its journal has version 3",
		`{"format":"notes"}`:                         "none of leitstand's",
		`{`:                                          "cannot be read",
	} {
		m.book = []byte(book)
		_, err := install.Open(m)
		assert.ErrorContains(t, err, want)
	}
}

// What an administrator has to do, and has not done yet, stays known, when it is made, changed and taken back; when it
// is done, nothing is left.
func TestLeftToAnAdministrator(t *testing.T) {
	m := inUse()
	had := m.snapshot()
	file := func(text string) []install.Item {
		list := items("hwdb", change.File{Path: "/etc/udev/hwdb.d/90-leitstand.hwdb", Data: []byte(text)}, change.NewCall(change.About{}, "udev-reload"))
		for i, item := range list {
			about := change.About{Everyone: true}
			switch c := item.Change.(type) {
			case change.File:
				c.About = about
				list[i].Change = c
			case change.Call:
				c.About = about
				list[i].Change = c
			}
		}
		return append(list, items("i3", change.File{Path: "~/.config/i3/leitstand.conf", Data: []byte(text)})...)
	}
	leave := func(want install.Wanted) []install.Step {
		s := begin(t, m)
		plan, err := s.Plan(want)
		require.NoError(t, err)
		_, everyone := plan.Split()
		plan.LeaveEveryone(s.Journal.Installed)
		require.NoError(t, s.Carry(s.Journal, plan, install.Terms{}))
		return everyone
	}
	waits := func() (places []string) {
		plan, err := begin(t, m).Drifted()
		require.NoError(t, err)
		for _, s := range plan.Steps {
			for _, w := range s.Writes {
				places = append(places, w.Path)
			}
		}
		return places
	}
	etc := func(text string) {
		m.files["/etc/udev/hwdb.d/90-leitstand.hwdb"] = install.File{Data: []byte(text), Mode: 0o644}
	}

	require.Len(t, leave(installed(file("one"))), 2)
	assert.Equal(t, []string{"/etc/udev/hwdb.d/90-leitstand.hwdb"}, waits())
	etc("one")
	assert.Empty(t, waits())
	require.Len(t, leave(installed(file("two"))), 2)
	assert.Equal(t, []string{"/etc/udev/hwdb.d/90-leitstand.hwdb"}, waits())
	plan, err := begin(t, m).Plan(installed(file("two")))
	require.NoError(t, err)
	assert.Empty(t, plan.Drift, "nobody has changed it")
	require.Len(t, leave(install.Wanted{}), 1)
	assert.Equal(t, []string{"/etc/udev/hwdb.d/90-leitstand.hwdb"}, waits())
	require.Len(t, leave(install.Wanted{}), 1, "it is still to be done")
	delete(m.files, "/etc/udev/hwdb.d/90-leitstand.hwdb")
	assert.Empty(t, waits())
	assert.Equal(t, had, m.snapshot())
	assert.Nil(t, m.book)
}

// An undo command that fails is repeated by the next command, after a trial and after a restore. It holds up nothing else.
func TestProgramThatCannotBeToldWaits(t *testing.T) {
	keymap := items("xkb",
		change.File{About: about("F6"), Path: "~/.config/leitstand/keymap.xkb", Data: []byte("keymap\n")},
		change.NewCall(about("F6"), "keymap-load", "~/.config/leitstand", "keymap.xkb"),
	)
	for _, trial := range []bool{true, false} {
		m := inUse()
		had := m.snapshot()
		s := begin(t, m)
		plan, err := s.Plan(installed(keymap))
		require.NoError(t, err)
		until := install.Terms{}
		if trial {
			until = terms
		}
		require.NoError(t, s.Carry(s.Journal, plan, until))
		m.refuses = called("keymap-load", "~/.config/leitstand", "keymap.xkb")
		if trial {
			left, err := s.Revert(s.Journal)
			require.NoError(t, err)
			assert.ErrorContains(t, left, "xkb: a running program could not be changed back (refused)")
		} else {
			plan, err := s.Plan(install.Wanted{})
			require.NoError(t, err)
			require.NoError(t, s.Carry(s.Journal, plan, install.Terms{}))
			assert.ErrorContains(t, plan.Left, "xkb: a running program could not be changed back (refused)")
		}
		s = begin(t, m)
		assert.ErrorContains(t, s.Left, "the next command tries again")
		m.refuses = ""
		s = begin(t, m)
		require.NoError(t, s.Left)
		assert.Equal(t, called("keymap-load", "~/.config/leitstand", "keymap.xkb"), m.called[len(m.called)-1])
		assert.Equal(t, had, m.snapshot())
		assert.Nil(t, m.book, "nothing is left to be told")
	}
}

// What a restore leaves, since somebody has changed it, stays known: a later one with force puts back what was there, and
// once the change is gone it goes by itself.
func TestLeftStaysKnown(t *testing.T) {
	const path = "~/.config/leitstand/load-keymaps"
	for _, force := range []bool{true, false} {
		m := inUse()
		had := m.snapshot()
		run(t, m, installed(first()))
		file := m.files[path]
		ours := file.Data
		file.Data = append(slices.Clone(ours), "# theirs\n"...)
		m.files[path] = file
		for range 2 { // as often as one likes
			plan := run(t, m, install.Wanted{})
			require.Len(t, plan.Drift, 1)
			assert.True(t, plan.Drift[0].Left)
			assert.Equal(t, file.Data, m.files[path].Data)
			require.NotNil(t, m.book)
		}
		if force {
			run(t, m, install.Wanted{Force: true})
		} else {
			file.Data = ours
			m.files[path] = file
			begin(t, m)
		}
		assert.Equal(t, had, m.snapshot())
		assert.Nil(t, m.book)
	}
}
