package cli

import (
	"fmt"
	"time"

	"github.com/spf13/cobra"

	"leitstand/core/mapping"
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
	c.Flags().
		StringVar(&f.root, "root", "", "a folder that stands for the machine's root; the machine itself is left alone")
	c.Flags().BoolVarP(&f.yes, "yes", "y", false, "do it without asking")
	c.Flags().
		BoolVar(&f.dry, "dry-run", false, "change nothing, and list every place with what it has and what it would get")
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
		Short: "Install the mapping on this machine",
		Long: `Makes this machine do what the mapping says, and removes what an earlier install did that
the mapping no longer says. It shows first which presses change, and asks. It saves what was
there, so that restore brings back every byte.

The machine is the one that --machine names; else the one whose hosts, or whose name, is
this computer's; else the only one with this system and desktop. With --trial it reverts
after a time unless you keep it, also when the terminal or the session has ended.`,
		Example: "  leitstand install --dry-run\n  leitstand install --trial 60s\n  leitstand install --root staging",
		RunE: func(c *cobra.Command, _ []string) error {
			if c.Flags().Changed("trial") && f.trial <= 0 {
				return fmt.Errorf("--trial %v: a trial lasts for some time, such as 60s; without --trial it is kept", f.trial)
			}
			return a.runInstall(f)
		},
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
		Short: "Undo what was installed, all or one rule",
		Long: `Brings back what this machine had before the first install: bytes, owners, modes and times
of files, and values of settings. What was absent is absent again. What others have changed
since stays and is listed, unless you say --force. With RULES, named as validate and compile
name them, only these are undone.`,
		Example: "  leitstand restore\n  leitstand restore \"launch Hyper+t\"",
		RunE: func(_ *cobra.Command, rules []string) error {
			switch {
			case unlessKept != 0:
				return a.revertAt(f, time.Unix(0, unlessKept))
			case len(rules) > 0:
				return a.runWithout(f, rules, false)
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
		Long: `Keeps what install --trial has installed, or reverts it at once. What takes effect at log-in
is tried at the next log-in: a notification asks whether to keep it, and without an answer
it reverts.`,
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
		Use:   "pause [RULE...]",
		Short: "Undo what is installed until resume",
		Long: `Undoes what is installed, all of it or the RULES or groups that you name, until resume. It
does not ask, so that a hotkey can do it.`,
		RunE: func(_ *cobra.Command, rules []string) error {
			f.yes, f.quiet = true, true
			if len(rules) > 0 {
				return a.runWithout(f, rules, true)
			}
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
		Short: "Install again what was paused",
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
		Short: "Report whether what was installed still holds",
		Long: `Reports what is installed, from which mapping, and what has changed since, by what keys do.
Exit code 0: all as installed; 1: something has changed; 2: could not run.`,
		RunE: func(*cobra.Command, []string) error { return a.runStatus(f) },
	}
	a.formatFlag(c)
	c.Flags().StringVar(&f.root, "root", "", "a folder that stands for the machine's root")
	return c
}
