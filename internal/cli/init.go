package cli

import (
	"cmp"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"leitstand/core/host"
	"leitstand/core/imports"
	"leitstand/core/install/live"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
)

func (a *app) initializing() *cobra.Command {
	var out string
	c := &cobra.Command{
		Use:   "init",
		Args:  cobra.NoArgs,
		Short: "Write a first mapping from what this machine has",
		Long: `Writes a mapping that describes this machine (system, desktop, session, layouts and
keyboards) and has the rules that its settings already make. On Windows it copies the
system's libraries of your layouts beside it. It asks nothing, changes nothing else, and
never overwrites a file. Without --output, the mapping goes where leitstand looks for it:
leitstand/leitstand.hcl in the folder of your configuration.`,
		Example: "  leitstand init\n  leitstand init -o leitstand.hcl",
		RunE:    func(*cobra.Command, []string) error { return a.runInit(out) },
	}
	a.formatFlag(c)
	c.Flags().
		StringVarP(&out, "output", "o", "", "write the mapping to this file, which must not be there yet; - prints it")
	return c
}

func (a *app) runInit(out string) error {
	this, left := hereAndLeft()
	live := &live.Machine{Env: os.Environ()}
	this.Name = cmp.Or(hostname(), this.Name)
	home, err := os.UserHomeDir()
	if err != nil {
		return err
	}
	live.Home = home
	var boards []*machine.Board
	var paths []imports.Path
	if this.System == machine.Linux {
		host.DesktopLayouts(this, live.Get)
		attached, _ := host.Boards(os.DirFS("/")) // without a list there are no boards to be named
		boards = host.OwnBoards(attached)
		for _, f := range host.SettingFiles(this) {
			at := f
			if rest, ok := strings.CutPrefix(f, "~/"); ok {
				at = filepath.Join(home, rest)
			}
			dir, name := filepath.Split(at)
			paths = append(paths, imports.Path{FS: onDisk(dir), Name: name, Shown: f})
		}
		if host.InDconf(this) {
			if dump, err := live.DumpDconf(); err == nil {
				paths = append(paths, imports.Path{
					FS: mechanism.Folder{{Path: "dconf.ini", Data: dump}}, Name: "dconf.ini", Shown: "dconf.ini",
				})
			}
		}
	}
	got, err := imports.First(paths, this, boards)
	if err != nil {
		return err
	}
	got.Left = append(got.Left, left...)
	if a.format == "json" || out == "-" {
		return a.printMapping(got)
	}
	if out == "" {
		config, err := os.UserConfigDir()
		if err != nil {
			return err
		}
		out = filepath.Join(config, "leitstand", host.MappingFile)
		if err := os.MkdirAll(filepath.Dir(out), 0o755); err != nil {
			return err
		}
	}
	return a.keep(out, got)
}
