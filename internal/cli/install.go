package cli

import (
	"bufio"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"time"

	"github.com/charmbracelet/x/term"
	"github.com/spf13/cobra"

	"leitstand/core/behaviour"
	"leitstand/core/check"
	"leitstand/core/compare"
	"leitstand/core/compile"
	"leitstand/core/host"
	"leitstand/core/install"
	"leitstand/core/install/live"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/report"
)

// placing are the flags of what changes the machine.
type placing struct {
	root, machine, script  string
	yes, dry, force, files bool
	quiet                  bool // what is to be done is not shown before
	trial                  time.Duration
}

func (a *app) placingFlags(c *cobra.Command, f *placing) {
	a.formatFlag(c)
	c.Flags().StringVar(&f.root, "root", "", "a folder that stands for the machine's root; the machine itself is left alone")
	c.Flags().BoolVarP(&f.yes, "yes", "y", false, "do it without asking")
	c.Flags().BoolVar(&f.dry, "dry-run", false, "change nothing, and list every place with what it has and what it would get")
	c.Flags().BoolVar(&f.files, "files", false, "with --dry-run, show the text of all files")
	c.Flags().StringVar(
		&f.script, "admin-script", "", "write what needs an administrator to this file, and leave it to somebody else",
	)
}

func (a *app) installing() *cobra.Command {
	var f placing
	c := &cobra.Command{
		Use:   "install",
		Args:  cobra.NoArgs,
		Short: "Put the mapping in place on this machine",
		Long: `Makes this machine have what the mapping says, and takes back what an earlier install
gave it and the mapping says no longer. What is there before is kept, so that restore
brings back every byte. Shows first what keys do otherwise then, and asks.

The machine is the one of --machine; else the one whose hosts, or whose name, is this
computer's; else the only one of its system and desktop. With --trial it is put back
after a while unless you say that you keep it: also when the terminal, or the session,
is gone.`,
		Example: "  leitstand install --dry-run\n  leitstand install --trial 60s\n  leitstand install --root staging",
		RunE:    func(*cobra.Command, []string) error { return a.runInstall(f) },
	}
	a.placingFlags(c, &f)
	c.Flags().StringVar(&f.machine, "machine", "", "the machine of the mapping that this one is")
	c.Flags().DurationVar(&f.trial, "trial", 0, "put it back after this time unless it is kept, such as 60s")
	complete(c, "machine", func() []string {
		return a.names(func(m *mapping.Mapping) (list []string) {
			for _, machine := range m.Machines {
				list = append(list, machine.Name)
			}
			return list
		})
	})
	return c
}

func (a *app) restoring() *cobra.Command {
	var f placing
	var unlessKept int64
	c := &cobra.Command{
		Use:   "restore [RULE...]",
		Short: "Take back what was installed, all of it or what one rule needs",
		Long: `Makes this machine what it was before the first install: bytes, owners, modes and times
of files, values of settings, and what was not there is not there. What somebody has
changed since is said and left, unless --force. With rules, as validate and compile name
them, the machine is what the mapping says without them.`,
		Example: "  leitstand restore\n  leitstand restore \"launch Hyper+t\"",
		RunE: func(_ *cobra.Command, rules []string) error {
			switch {
			case unlessKept != 0:
				return a.revertAt(f, time.Unix(0, unlessKept))
			case len(rules) > 0:
				return a.runWithout(f, rules)
			}
			return a.runRestore(f, "restored")
		},
	}
	a.placingFlags(c, &f)
	c.Flags().BoolVar(&f.force, "force", false, "put back also what somebody has changed since")
	c.Flags().Int64Var(&unlessKept, "unless-kept", 0, "wait until a trial ends at this time, and put it back")
	_ = c.Flags().MarkHidden("unless-kept") // it is there
	return c
}

func (a *app) keeping() *cobra.Command {
	var f placing
	var not, atLogin bool
	c := &cobra.Command{
		Use:   "keep",
		Args:  cobra.NoArgs,
		Short: "Keep what is on trial",
		Long: `Keeps what install --trial has put in place, or puts it back at once. What takes effect
at log-in only is tried then: after the next log-in a notification asks whether it is
kept, and without an answer all is put back.`,
		RunE: func(*cobra.Command, []string) error {
			if atLogin {
				return a.runAtLogin(f)
			}
			return a.runKeep(f, not, false)
		},
	}
	c.Flags().StringVar(&f.root, "root", "", "a folder that stands for the machine's root")
	c.Flags().BoolVar(&not, "not", false, "put it back at once")
	c.Flags().BoolVar(&atLogin, "at-login", false, "ask by a notification, as desktops do after a log-in")
	_ = c.Flags().MarkHidden("at-login") // it is there
	return c
}

func (a *app) pausing() *cobra.Command {
	var f placing
	c := &cobra.Command{
		Use:   "pause",
		Args:  cobra.NoArgs,
		Short: "Take back what is installed until resume, without asking",
		RunE: func(*cobra.Command, []string) error {
			f.yes, f.quiet = true, true
			return a.runRestore(f, "paused")
		},
	}
	a.placingFlags(c, &f)
	return c
}

func (a *app) resuming() *cobra.Command {
	var f placing
	c := &cobra.Command{
		Use:   "resume",
		Args:  cobra.NoArgs,
		Short: "Put what was paused in place again, without asking",
		RunE: func(*cobra.Command, []string) error {
			f.yes, f.quiet = true, true
			return a.runResume(f)
		},
	}
	a.placingFlags(c, &f)
	return c
}

func (a *app) status() *cobra.Command {
	var f placing
	c := &cobra.Command{
		Use:   "status",
		Args:  cobra.NoArgs,
		Short: "What is installed here, and what is not as it was left",
		Long: `Says what is installed, from which mapping, and what somebody has changed since, by what
keys do. Exit code 0: all is as it was installed; 1: something is not; 2: could not run.`,
		RunE: func(*cobra.Command, []string) error { return a.runStatus(f) },
	}
	a.formatFlag(c)
	c.Flags().StringVar(&f.root, "root", "", "a folder that stands for the machine's root")
	return c
}

// at is leitstand at work on the machine, or on a folder that stands for one.
type at struct {
	*install.Session
	machine *live.Machine
	book    live.Book
}

// begin waits for other runs, and says what it had to mend.
func (a *app) begin(f placing) (*at, error) {
	m, err := machineAt(f)
	if err != nil {
		return nil, err
	}
	book := live.Book{Folder: m.StateFolder()}
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
	here := &at{s, m, book}
	if s.Recovered || s.Ended {
		err = a.keepScript(here)
	}
	return here, err
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
		err = os.MkdirAll(m.Root, 0o755)
	}
	return m, err
}

// checkedHere checks the mapping for the machine at hand. With rules, without them.
func (a *app) checkedHere(path string, f placing, without []string) (*compile.Build, error) {
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
	this := here()
	m, err := install.Pick(mp, this, hostname(), f.machine, f.root != "")
	if err != nil {
		return nil, err
	}
	switch {
	case m.System != machine.Linux:
		return nil, fmt.Errorf("install is not written yet for %s; `leitstand compile --machine %s` writes the files, and "+
			"the steps that put them in place", m.System.Title(), m.Name)
	case m.System != this.System && f.root == "":
		return nil, fmt.Errorf("%s is a machine with %s, and this is one with %s; --root puts it into a folder", m.Name,
			m.System.Title(), this.System.Title())
	}
	var names []string
	if len(mp.Machines) > 0 {
		names = []string{m.Name}
	}
	found, err := check.Read(mp, diags, check.Here{Machine: this, Name: hostname(), Has: has}, names)
	if err != nil {
		return nil, err
	}
	if errs := found.Findings.Errors(); len(errs) > 0 {
		a.complain(errs)
		return nil, exit{exitErrors}
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
	b, err := a.checkedHere(path, f, nil)
	if err != nil {
		return err
	}
	here, err := a.begin(f)
	if err != nil {
		return err
	}
	defer here.End()
	want := installed(b, path, nil)
	if want.Items, err = withOwn(here, f, want); err != nil {
		return err
	}
	if j := here.Journal; len(j.Items) > 0 && (j.Mapping != want.Mapping || j.Machine != want.Machine) {
		fmt.Fprintf(a.stderr, "What is installed is %s of %s; it is taken back for %s of %s.\n",
			j.Machine, j.Mapping, want.Machine, want.Mapping)
	}
	return a.place(here, f, want, b, "installed")
}

// withOwn adds what leitstand needs for itself: an entry in the menu, and for a trial of what takes effect at log-in who
// asks then.
func withOwn(here *at, f placing, want install.Wanted) ([]install.Item, error) {
	program, err := os.Executable()
	if err != nil || f.root != "" || len(want.Items) == 0 {
		return want.Items, err
	}
	items := append(want.Items, install.RestoreEntry(program))
	if f.trial == 0 || here.Journal.Trial != nil {
		return items, nil
	}
	plan, err := here.Plan(want)
	if err == nil && plan.AtLogin() {
		items = append(items, install.LoginJob(program))
	}
	return items, err
}

// runWithout makes the machine what the mapping that is installed says without some rules.
func (a *app) runWithout(f placing, rules []string) error {
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
	b, err := a.checkedHere(j.Mapping, f, without)
	if err != nil {
		return err
	}
	want := installed(b, j.Mapping, without)
	if want.Items, err = withOwn(here, f, want); err != nil {
		return err
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
		if err := here.Revert(j); err != nil {
			return err
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
			Machine: j.Machine, Mapping: j.Mapping, Commit: j.Commit, At: j.At, Without: j.Without, Paused: j.Items,
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
	want.Items, want.Paused, want.Held, want.Files, want.Folders = j.Paused, nil, nil, nil, nil
	return a.place(here, f, want, a.buildOf(here), "installed")
}

// buildOf is the build of what is installed, by which its keys can be told; nil where there is no mapping any more.
func (a *app) buildOf(here *at) *compile.Build {
	mp, _, err := a.load(here.Journal.Mapping)
	if err != nil {
		return nil
	}
	builds, _, err := compile.All(mp, nil, []string{here.Journal.Machine})
	if err != nil || len(builds) == 0 {
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
	own, everyone := plan.Split()
	rights := f.root != "" || os.Geteuid() == 0
	differ, unread := presses(here, b, plan, was.Items, want.Items)
	said := report.InstallationOf("planned", plan, differ, unread)
	if plan.Empty() {
		said.State = "nothing-to-do"
	}
	if f.dry {
		return a.say(said, func() { a.text.Intended(said, true, f.files) })
	}
	if a.format == "text" && !plan.Empty() && !f.quiet {
		a.text.Intended(said, false, false)
	}
	if !plan.Empty() && !f.yes {
		if err := a.ask("Do it?"); err != nil {
			return err
		}
	}
	if !rights || f.script != "" {
		plan.Steps = own
		if said.Script, err = a.adminScript(here, f, everyone, want.Machine); err != nil {
			return err
		}
	} else {
		said.Administrator = 0
	}
	var until time.Time
	if f.trial > 0 && len(plan.Steps) > 0 {
		until = time.Now().Add(f.trial).Round(0)
		if err := startWatch(f, until); err != nil {
			return err
		}
	}
	if err := here.Carry(here.Journal, plan, install.Terms{Until: until, For: f.trial}); err != nil {
		return err
	}
	if err := a.keepScript(here); err != nil {
		return err
	}
	if plan.Empty() && len(everyone) == 0 {
		state = "nothing-to-do"
	}
	for _, s := range plan.Untold {
		said.Untold = append(said.Untold, strings.Join(s.Do, " "))
	}
	if said.State = state; !until.IsZero() {
		said.State, said.Until = "on-trial", &until
	}
	if err := a.say(said, func() { a.text.Installed(said) }); err != nil || until.IsZero() {
		return err
	}
	here.End()
	here.End = func() {}
	return a.tryOut(f, until)
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

// adminScript writes what needs an administrator.
func (a *app) adminScript(here *at, f placing, steps []install.Step, machine string) (string, error) {
	if len(steps) == 0 {
		return "", nil
	}
	name := f.script
	if name == "" {
		name = filepath.Join(here.machine.StateFolder(), "administrator.sh")
	}
	text := install.Script("What the keyboard mapping of the machine "+machine+" needs an administrator for.\n", steps)
	return name, os.WriteFile(name, text, 0o600)
}

// keepScript keeps scripts beside the journal that restore without leitstand.
func (a *app) keepScript(here *at) error {
	plan, err := install.Make(here.Machine, here.Journal.Installed, install.Wanted{})
	if err != nil {
		return err
	}
	own, everyone := plan.Split()
	keep := func(name, says string, steps []install.Step) error {
		if name = filepath.Join(here.machine.StateFolder(), name); len(steps) > 0 {
			return os.WriteFile(name, install.Script(says, steps), 0o600)
		}
		if err := os.Remove(name); !errors.Is(err, fs.ErrNotExist) {
			return err
		}
		return nil
	}
	err = keep("restore.sh", "Takes back what leitstand has installed here, without it. What is an administrator's is in\n"+
		"restore-administrator.sh.\n", own)
	err = errors.Join(err, keep("restore-administrator.sh", "Takes back what leitstand has installed here for all users.\n",
		everyone))
	if here.Journal.Empty() {
		err = errors.Join(err, keep("administrator.sh", "", nil))
	}
	return err
}

// startWatch starts what puts a trial back, and outlives this process, its terminal and its session.
func startWatch(f placing, until time.Time) error {
	program, err := os.Executable()
	if err != nil {
		return err
	}
	words := []string{"restore", "--unless-kept", strconv.FormatInt(until.UnixNano(), 10)}
	if f.root != "" {
		words = append(words, "--root", f.root)
	}
	cmd := exec.Command(program, words...)
	detach(cmd)
	return cmd.Start()
}

// revertAt waits until a trial is over, and puts it back unless it was kept.
func (a *app) revertAt(f placing, until time.Time) error {
	outlive()
	m, err := machineAt(f)
	if err != nil {
		return err
	}
	if !install.AwaitEnd(live.Book{Folder: m.StateFolder()}, until, time.Now, time.Sleep) {
		return nil
	}
	here, err := a.begin(f)
	if err == nil {
		here.End()
	}
	return err
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
		return a.runKeep(f, true, false)
	}
}

// runKeep ends a trial, after a log-in or before.
func (a *app) runKeep(f placing, not, afterLogin bool) error {
	here, err := a.begin(f)
	if err != nil {
		return err
	}
	defer here.End()
	switch {
	case here.Ended || afterLogin && here.Journal.Trial == nil: // it was put back meanwhile
		return nil
	case here.Journal.Trial == nil:
		return errors.New("nothing is on trial here")
	case not:
		if err := here.Revert(here.Journal); err != nil {
			return err
		}
		fmt.Fprintln(a.stdout, "It is put back.")
	default:
		asks, err := here.Keep(here.Journal, afterLogin)
		if err != nil {
			return err
		}
		fmt.Fprintln(a.stdout, "It is kept.")
		if asks {
			fmt.Fprintln(a.stdout, "Some of it takes effect at log-in: after the next one you are asked again.")
		}
	}
	return a.keepScript(here)
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
	answer, err := here.machine.Ask("Keep the keyboard mapping?", "Try your keys. Without an answer all is as it was before.",
		[]live.Button{{Name: "keep", Says: "Keep"}, {Name: "back", Says: "Put back"}}, trial.For)
	if err != nil {
		return err
	}
	return a.runKeep(f, answer != "keep", true)
}

func (a *app) runStatus(f placing) error {
	here, err := a.begin(f)
	if err != nil {
		return err
	}
	defer here.End()
	said, err := a.statusOf(here)
	if err != nil {
		return err
	}
	if err := a.say(said, func() { a.text.Status(said) }); err != nil {
		return err
	}
	if len(said.Drift) > 0 {
		return exit{exitErrors}
	}
	return nil
}

func (a *app) statusOf(here *at) (report.Status, error) {
	plan, err := here.Drifted()
	if err != nil {
		return report.Status{}, err
	}
	b := a.buildOf(here)
	edited := b != nil && len(here.Journal.Without) == 0 && len(here.Journal.Items) > 0 &&
		here.Journal.Differs(install.Items(b))
	differ, unread := presses(here, b, plan, here.Journal.Items, nil)
	return report.StatusOf(here.Journal, plan, differ, unread, edited), nil
}
