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
		Short: "Put the mapping in place on this machine",
		Long: `Makes this machine have what the mapping says, and takes back what an earlier install
gave it and the mapping says no longer. What is there before is kept, so that restore
brings back every byte. Shows first what keys do otherwise then, and asks.

The machine is the one of --machine; else the one whose hosts, or whose name, is this
computer's; else the only one of its system and desktop. With --trial it is put back
after a while unless you say that you keep it: also when the terminal, or the session,
is gone.`,
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
		Use:   "pause [RULE...]",
		Short: "Take back what is installed until resume, without asking",
		Long: `Makes this machine what it was before the first install, or with rules or groups, as
validate and compile name them, what the mapping says without them; resume brings all
back. Short enough for a hotkey.`,
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
