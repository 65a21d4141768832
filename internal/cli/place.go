package cli

import (
	"bufio"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/charmbracelet/x/term"

	"leitstand/core/behaviour"
	"leitstand/core/check"
	"leitstand/core/compare"
	"leitstand/core/compile"
	"leitstand/core/diag"
	"leitstand/core/host"
	"leitstand/core/imports"
	"leitstand/core/install"
	"leitstand/core/install/live"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/report"
	"leitstand/core/report/text"
)

// at is leitstand at work on the machine, or on a folder that stands for one.
type at struct {
	*install.Session
	machine *live.Machine
}

// begin waits for other runs, and says what it had to mend.
func (a *app) begin(f placing) (*at, error) {
	m, err := machineAt(f)
	if err != nil {
		return nil, err
	}
	book := m.Book()
	s, err := install.Begin(install.Installer{Machine: m, Book: book}, time.Now(), book.Lock)
	if err != nil {
		return nil, err
	}
	if s.Recovered {
		fmt.Fprintln(a.stderr, "An earlier run had been ended midway; what it had begun is taken back.")
	}
	if s.Ended {
		fmt.Fprintln(a.stderr, "A trial was over; what it had changed is put back.")
	}
	a.warn(s.Left)
	here := &at{s, m}
	if s.Recovered || s.Ended || s.Pruned {
		err = m.KeepScripts(s.Journal)
	}
	return here, err
}

// warn says which places were not reverted.
func (a *app) warn(left error) {
	if left != nil {
		fmt.Fprintf(a.stderr, "Not all of it is as it was before:\n%v\n", left)
	}
}

// machineAt is the machine at hand, or a folder that stands for one.
func machineAt(f placing) (*live.Machine, error) {
	home, err := os.UserHomeDir()
	if err != nil {
		return nil, err
	}
	m := &live.Machine{Home: home, Env: os.Environ()}
	if f.root != "" {
		if m.Root, err = filepath.Abs(f.root); err != nil {
			return nil, err
		}
	}
	return m, m.CheckHome()
}

// wantedHere checks the mapping for the machine at hand, to be installed. It leaves out some rules by name, and those that
// the user's own configuration already has.
func (a *app) wantedHere(path string, f placing, without []string) (*compile.Build, error) {
	b, err := a.checkedHere(path, f, without, nil)
	if err != nil {
		return nil, err
	}
	m, err := machineAt(f)
	if err != nil {
		return nil, err
	}
	own, data := install.Including(m, b)
	present := imports.Present(b, own, data)
	if len(present) == 0 {
		return b, nil
	}
	if !f.quiet {
		fmt.Fprintf(a.stderr, "Already in %s, and left there: %s.\n", own, text.Plural(len(present), "rule", "rules"))
	}
	f.quiet = true // the warnings of the mapping have been mentioned
	return a.checkedHere(path, f, without, present)
}

// checkedHere checks the mapping for the machine at hand, without the rules that the user names, and without those that
// are present already.
func (a *app) checkedHere(
	path string, f placing, without []string, present []mapping.Rule,
) (*compile.Build, error) {
	mp, diags, err := a.load(path)
	if err != nil {
		return nil, err
	}
	for _, name := range without {
		rules, err := mp.Named(name)
		if err != nil {
			return nil, err
		}
		for _, r := range rules {
			r.Head().Enabled = false
		}
	}
	mp.SwitchOff(present)
	this := here()
	m, err := install.Pick(mp, this, hostname(), f.machine, f.root != "")
	if err != nil {
		return nil, err
	}
	switch {
	case m.System != machine.Linux:
		return nil, fmt.Errorf(
			"install is not written yet for %s; `leitstand compile --machine %s` writes the files, and "+
				"the steps that put them in place",
			m.System.Title(),
			m.Name,
		)
	case m.System != this.System && f.root == "":
		return nil, fmt.Errorf("%s is a machine with %s, and this is one with %s; --root puts it into a folder", m.Name,
			m.System.Title(), this.System.Title())
	}
	var names []string
	if len(mp.Machines) > 0 {
		names = []string{m.Name}
	}
	at := thisHost()
	at.Machine = this
	found, err := check.Read(mp, diags, at, names)
	if err != nil {
		return nil, err
	}
	if errs := found.Findings.Errors(); len(errs) > 0 {
		a.complain(errs)
		return nil, exit{exitErrors}
	}
	if n := len(found.Findings.Without(diag.Note)); n > 0 && !f.quiet {
		fmt.Fprintf(
			a.stderr,
			"%s of the mapping: `leitstand validate` tells more.\n",
			text.Plural(n, "warning", "warnings"),
		)
	}
	return found.Builds[0], nil
}

// installed is what a mapping is when it is in place.
func installed(b *compile.Build, path string, without []string) install.Wanted {
	whole, err := filepath.Abs(path)
	if err != nil || path == "-" {
		whole = path
	}
	inRoot := strings.TrimPrefix(filepath.ToSlash(filepath.Dir(whole)), "/")
	return install.Wanted{Installed: install.Installed{
		Machine: b.Machine.Name, Mapping: whole, Commit: host.Commit(os.DirFS("/"), inRoot), At: time.Now(),
		Items: install.Items(b), Without: without,
	}}
}

func (a *app) runInstall(f placing) error {
	path := a.file()
	b, err := a.wantedHere(path, f, nil)
	if err != nil {
		return err
	}
	here, err := a.begin(f)
	if err != nil {
		return err
	}
	defer here.End()
	want := installed(b, path, nil)
	if want.Items, err = withOwn(here, f, want, b); err != nil {
		return err
	}
	if j := here.Journal; len(j.Items) > 0 && !j.At.IsZero() && (j.Mapping != want.Mapping || j.Machine != want.Machine) {
		fmt.Fprintf(a.stderr, "What is installed is %s of %s; it is taken back for %s of %s.\n",
			j.Machine, j.Mapping, want.Machine, want.Mapping)
	}
	return a.place(here, f, want, b, "installed")
}

// runWithout makes the machine what the mapping that is installed says without some rules, for good or until it is
// resumed.
func (a *app) runWithout(f placing, rules []string, pause bool) error {
	here, err := a.begin(f)
	if err != nil {
		return err
	}
	defer here.End()
	j := here.Journal
	if len(j.Items) == 0 {
		return errors.New("nothing is installed here")
	}
	f.machine = j.Machine
	without := append(append([]string{}, j.Without...), rules...)
	b, err := a.wantedHere(j.Mapping, f, without)
	if err != nil {
		return err
	}
	want := installed(b, j.Mapping, without)
	want.Narrow, want.Force = true, f.force
	if want.Items, err = withOwn(here, f, want, b); err != nil {
		return err
	}
	if pause {
		if want.Paused = j.Paused; want.Paused == nil {
			want.Paused = j.Items
		}
		return a.place(here, f, want, b, "paused")
	}
	return a.place(here, f, want, b, "installed")
}

// runRestore takes back all that is installed, for good or until it is resumed.
func (a *app) runRestore(f placing, state string) error {
	here, err := a.begin(f)
	if err != nil {
		return err
	}
	defer here.End()
	j := here.Journal
	if j.Trial != nil && state == "restored" { // the machine is to be as before all
		left, err := here.Revert(j)
		a.warn(left)
		if err != nil {
			return err
		}
		if len(j.Items) == 0 && len(j.Paused) == 0 { // it was the first install
			if err := here.machine.KeepScripts(j); err != nil {
				return err
			}
			return a.say(report.Installation{
				Version: report.Version, State: "restored", Presses: []report.PlannedPress{},
				Changes: []report.PlacedChange{}, Drift: []report.Drifted{}, Takes: []report.Taking{}, ByHand: []string{},
			}, func() { fmt.Fprintln(a.stdout, "The trial is over: everything is as it was before.") })
		}
	}
	want := install.Wanted{Force: f.force}
	want.Machine = j.Machine
	switch {
	case len(j.Items) == 0 && len(j.Paused) == 0:
		return errors.New("nothing is installed here")
	case len(j.Items) == 0 && state == "paused":
		return errors.New("it is paused already; `leitstand resume` brings it back")
	case state == "paused":
		want.Installed = install.Installed{
			Machine: j.Machine, Mapping: j.Mapping, Commit: j.Commit, At: j.At, Without: j.Without, Paused: j.Paused,
		}
		if j.Paused == nil { // else more of it is paused
			want.Paused = j.Items
		}
	}
	return a.place(here, f, want, a.buildOf(here), state)
}

func (a *app) runResume(f placing) error {
	here, err := a.begin(f)
	if err != nil {
		return err
	}
	defer here.End()
	j := here.Journal
	if len(j.Paused) == 0 {
		return errors.New("nothing is paused here")
	}
	want := install.Wanted{Installed: j.Installed}
	want.Without = nil
	want.Items, want.Paused, want.Held, want.Files, want.Folders = j.Paused, nil, nil, nil, nil
	return a.place(here, f, want, a.buildOf(here), "installed")
}

// buildOf is the build of what is installed, by which its keys can be told; nil where there is no mapping any more.
func (a *app) buildOf(on *at) *compile.Build {
	mp, _, err := a.load(on.Journal.Mapping)
	if err != nil {
		return nil
	}
	builds, _, err := compile.All(mp, here(), []string{on.Journal.Machine})
	if err != nil || len(builds) == 0 {
		return nil
	}
	own, data := install.Including(on.machine, builds[0])
	present := imports.Present(builds[0], own, data)
	if len(present) == 0 {
		return builds[0]
	}
	mp.SwitchOff(present)
	if builds, _, err = compile.All(mp, here(), []string{on.Journal.Machine}); err != nil {
		return nil
	}
	return builds[0]
}

// place plans, shows, asks and does.
func (a *app) place(here *at, f placing, want install.Wanted, b *compile.Build, state string) error {
	was := here.Journal.Installed
	plan, err := here.Plan(want)
	if err != nil {
		return err
	}
	if f.root != "" { // nobody is there who could be told
		plan.Steps = slices.DeleteFunc(plan.Steps, func(s install.Step) bool { return s.IsCall() })
	}
	differ, unread := presses(here, b, plan, was.Items, want.Items)
	if len(want.Items) == 0 && slices.ContainsFunc(plan.Drift, func(d install.Drift) bool { return d.Left }) {
		unread = nil // what stays is read by nothing any more
	}
	said := report.InstallationOf("planned", plan, differ, unread)
	if len(want.Items) > 0 {
		said.In, said.Clashes = clashes(here, b)
	}
	if plan.Empty() {
		said.State = "nothing-to-do"
	}
	if f.dry {
		return a.say(said, func() { a.text.Intended(said, true, f.files) })
	}
	if a.format == "text" && !plan.Empty() && !f.quiet {
		a.text.Intended(said, false, false)
	}
	if alone := f.root == "" && os.Geteuid() != 0 && f.script == "" && !term.IsTerminal(os.Stdin.Fd()); alone && state == "installed" {
		if err := plan.NeedsRights(); err != nil { // there is nobody to be asked for an administrator
			return err
		}
	}
	if !plan.Empty() && !f.yes {
		if err := a.ask("Do it?"); err != nil {
			return err
		}
	}
	if plan.Empty() && state == "installed" {
		state = "nothing-to-do"
	}
	return a.carryOut(here, f, plan, said, state)
}

// carryOut does what is planned, as far as the user's rights go, and says what is left to do.
func (a *app) carryOut(here *at, f placing, plan *install.Plan, said report.Installation, state string) error {
	if rights := f.root != "" || os.Geteuid() == 0; !rights || f.script != "" {
		_, everyone := plan.Split()
		plan.LeaveEveryone(here.Journal.Installed)
		if len(everyone) > 0 {
			var err error
			if said.Script, err = here.machine.KeepForAdministrator(f.script, said.Machine, everyone); err != nil {
				return err
			}
		}
	} else {
		said.Administrator = 0
	}
	var terms install.Terms
	if f.trial > 0 && len(plan.Steps) > 0 {
		terms = install.Terms{
			Until: time.Now().Add(f.trial).Round(0), For: f.trial, Login: f.root == "" && plan.AtLogin(),
		}
		if err := startWatch(f, terms.Until); err != nil {
			return err
		}
	}
	if err := here.Carry(here.Journal, plan, terms); err != nil {
		return err
	}
	if plan.Left != nil {
		said.Stuck = strings.Split(plan.Left.Error(), "\n")
	}
	if err := here.machine.KeepScripts(here.Journal); err != nil {
		return err
	}
	onTrial := here.Journal.Trial != nil
	if said.Script != "" && f.script == "" && !onTrial && term.IsTerminal(os.Stdin.Fd()) && a.asAdministrator(said) {
		said.Administrator = 0
	}
	for _, s := range plan.Untold {
		said.Untold = append(said.Untold, strings.Join(s.Do, " "))
	}
	if said.State = state; onTrial {
		said.State, said.Until = "on-trial", &terms.Until
	}
	err := a.say(said, func() { a.text.Installed(said) })
	if err == nil && plan.Left != nil {
		err = exit{exitErrors}
	}
	if err != nil || !onTrial {
		return err
	}
	here.End()
	here.End = func() {}
	return a.tryOut(f, terms.Until)
}

// presses says what keys do otherwise. Without a mapping that is not known; the error says why it cannot be told.
func presses(
	here *at, b *compile.Build, plan *install.Plan, was, is []install.Item,
) ([]behaviour.Change, error) {
	if b == nil || plan.Empty() {
		return nil, nil
	}
	return compare.Stores(b, install.Changes(was, is), install.Store(here.Machine), plan.After)
}

// clashes are the presses that the configuration of the machine's user binds as well, into which ours is included.
func clashes(here *at, b *compile.Build) (in string, presses []string) {
	if b == nil {
		return "", nil
	}
	if path, data := install.Including(here.machine, b); data != nil {
		return path, imports.Clashes(b, path, data)
	}
	return "", nil
}

// ask asks for a yes.
func (a *app) ask(question string) error {
	if !term.IsTerminal(os.Stdin.Fd()) {
		return errors.New("nothing was done: nobody can be asked here, so say --yes")
	}
	fmt.Fprintf(a.stderr, "%s [y/N] ", question)
	line, _ := bufio.NewReader(os.Stdin).ReadString('\n') // what ends is no yes
	if answer := strings.ToLower(strings.TrimSpace(line)); answer != "y" && answer != "yes" {
		return errors.New("nothing was done")
	}
	return nil
}

// asAdministrator runs what needs an administrator, if the user consents, and says whether it was done.
func (a *app) asAdministrator(said report.Installation) bool {
	program := "sudo"
	if !has(program) {
		program = "pkexec"
	}
	words := []string{program, "sh", said.Script}
	if !has(program) || a.ask(fmt.Sprintf("By an administrator: %s. Run %s?",
		text.Plural(said.Administrator, "place", "places"), strings.Join(words, " "))) != nil {
		return false
	}
	cmd := exec.Command(words[0], words[1:]...)
	cmd.Stdin, cmd.Stdout, cmd.Stderr = os.Stdin, a.stderr, a.stderr
	return cmd.Run() == nil
}
