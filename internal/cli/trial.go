package cli

import (
	"errors"
	"fmt"
	"os"
	"os/exec"
	"os/signal"
	"strconv"
	"syscall"
	"time"

	"github.com/charmbracelet/x/term"

	"leitstand/core/compile"
	"leitstand/core/install"
	"leitstand/core/install/live"
	"leitstand/core/machine"
)

// withOwn adds what leitstand needs for itself: an entry in the menu, and for a trial of what takes effect at log-in
// who asks then.
func withOwn(here *at, f placing, want install.Wanted, b *compile.Build) ([]install.Item, error) {
	program, err := os.Executable()
	if err != nil || f.root != "" || len(want.Items) == 0 {
		return want.Items, err
	}
	items := want.Items
	if b.Machine.Desktop != machine.None {
		items = append(items, install.RestoreEntry(program))
	}
	if f.trial == 0 || here.Journal.Trial != nil {
		return items, nil
	}
	plan, err := here.Plan(want)
	if err == nil && plan.AtLogin() {
		items = append(items, install.LoginJob(program))
	}
	return items, err
}

// startWatch starts what puts a trial back, and outlives this process, its terminal and its session: by the user's service
// manager, where one runs, and otherwise as a process of its own.
func startWatch(f placing, until time.Time) error {
	program, err := os.Executable()
	if err != nil {
		return err
	}
	words := []string{"restore", "--unless-kept", strconv.FormatInt(until.UnixNano(), 10)}
	if f.root != "" {
		words = append(words, "--root", f.root)
	}
	unit := fmt.Sprintf("leitstand-trial-%d", until.UnixNano())
	folder, err := os.Getwd()
	if err == nil && live.StartOutside(unit, folder, append([]string{program}, words...), os.Environ()) == nil {
		return nil
	}
	cmd := exec.Command(program, words...)
	detach(cmd)
	return cmd.Start()
}

// revertAt waits until a trial is over, and puts it back unless it was kept. Who ends this process ends the trial.
func (a *app) revertAt(f placing, until time.Time) error {
	outlive()
	m, err := machineAt(f)
	if err != nil {
		return err
	}
	ends := make(chan os.Signal, 1)
	signal.Notify(ends, syscall.SIGTERM)
	wait := func(d time.Duration) bool {
		select {
		case <-ends:
			return true
		case <-time.After(d):
			return false
		}
	}
	if !install.AwaitEnd(m.Book(), until, time.Now, wait) {
		return nil
	}
	// The session may be ending meanwhile, and its programs with it.
	for tries := 3; ; tries-- {
		if err = a.revert(f, until); err == nil || tries == 1 {
			return err
		}
		time.Sleep(time.Second)
	}
}

// revert puts back what is on trial until a time.
func (a *app) revert(f placing, until time.Time) error {
	here, err := a.begin(f)
	if err != nil {
		return err
	}
	defer here.End()
	t := here.Journal.Trial
	if t == nil && here.Recovered { // by this
		return here.machine.KeepScripts(here.Journal)
	}
	if t == nil || !t.Until.Equal(until) {
		return nil
	}
	if _, err := here.Revert(here.Journal); err != nil { // the clock may have been set back
		return err
	}
	return here.machine.KeepScripts(here.Journal)
}

// tryOut asks whether a trial is kept, where somebody can be asked.
func (a *app) tryOut(f placing, until time.Time) error {
	if !term.IsTerminal(os.Stdin.Fd()) {
		return nil
	}
	answered := make(chan error, 1)
	go func() { answered <- a.ask("Press your keys. Keep it?") }()
	select {
	case err := <-answered:
		return a.runKeep(f, err != nil, false)
	case <-time.After(time.Until(until)):
		fmt.Fprintln(a.stderr)
		return a.runKeep(f, true, true)
	}
}

// runKeep ends a trial, or keeps it until the next log-in. At its end, which is also that of the question after a log-in,
// somebody else may have put it back already.
func (a *app) runKeep(f placing, not, atEnd bool) error {
	here, err := a.begin(f)
	if err != nil {
		return err
	}
	defer here.End()
	switch {
	case here.Ended || atEnd && here.Journal.Trial == nil:
		fmt.Fprintln(a.stdout, "It is put back.")
		return nil
	case here.Journal.Trial == nil:
		return errors.New("nothing is on trial here")
	case not:
		left, err := here.Revert(here.Journal)
		a.warn(left)
		if err != nil {
			return err
		}
		if left != nil {
			if err := here.machine.KeepScripts(here.Journal); err != nil {
				return err
			}
			return exit{exitErrors}
		}
		fmt.Fprintln(a.stdout, "It is put back.")
	default:
		asks, err := here.Keep(here.Journal, atEnd)
		if err != nil {
			return err
		}
		fmt.Fprintln(a.stdout, "It is kept.")
		if asks {
			fmt.Fprintln(a.stdout, "Some of it takes effect at log-in: after the next one you are asked again.")
		}
	}
	return here.machine.KeepScripts(here.Journal)
}

// runAtLogin asks after a log-in whether a trial is kept. Without an answer it is put back.
func (a *app) runAtLogin(f placing) error {
	here, err := a.begin(f)
	if err != nil {
		return err
	}
	trial := here.Journal.Trial
	if trial == nil {
		here.End()
		return nil
	}
	err = here.Prolong(here.Journal, time.Now())
	here.End()
	if err != nil {
		return err
	}
	if err := startWatch(f, trial.Until); err != nil { // whatever becomes of this process
		return err
	}
	answer, err := here.machine.Ask(
		"Keep the keyboard mapping?",
		"Try your keys. Without an answer all is as it was before.",
		[]live.Button{{Name: "keep", Says: "Keep"}, {Name: "back", Says: "Put back"}},
		trial.For,
	)
	if err != nil {
		return err
	}
	return a.runKeep(f, answer != "keep", true)
}
