package cli

import (
	"cmp"
	"errors"
	"fmt"
	"os"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"leitstand/core/compare"
	"leitstand/core/compile"
	"leitstand/core/install"
	"leitstand/core/mapping"
	"leitstand/core/report"
)

func (a *app) diff() *cobra.Command {
	var files bool
	var f placing
	c := &cobra.Command{
		Use:   "diff A [B]",
		Short: "Compare mappings, compiled folders, machines, or this computer",
		Long: `A and B are each a mapping (a file, or a folder of .hcl files), a folder that compile
wrote, @MACHINE for a machine of the mapping, or live for this computer. With A alone, the
mapping is compared with it. Two mappings are compared rule by rule, everything else by
what each press does; --files also compares the files. After an install, diff live says of
each difference whether the computer has changed since, or the mapping.
Exit code 0: no difference; 1: differences; 2: could not run.`,
		Example: "  leitstand diff old.hcl new.hcl\n  leitstand diff compiled --files\n  leitstand " +
			"diff live\n  leitstand diff @gauge @mess",
		Args: cobra.RangeArgs(1, 2),
		RunE: func(_ *cobra.Command, args []string) error {
			x, y := args[0], args[len(args)-1]
			if isSide(x) || isSide(y) {
				if len(args) == 1 {
					y = a.file()
				}
				return a.diffSides(x, y, f, files)
			}
			if len(args) == 1 {
				if y = a.file(); compiled(x) {
					x, y = y, x
				}
			}
			switch {
			case compiled(x) && compiled(y):
				list, err := compare.Folders(onDisk(x), onDisk(y))
				if err != nil {
					return err
				}
				return a.diffFolder(list, files, y, x)
			case compiled(x):
				return a.diffCompiled(y, x, files)
			case compiled(y):
				return a.diffCompiled(x, y, files)
			default:
				return a.diffMappings(x, y)
			}
		},
	}
	a.formatFlag(c)
	c.Flags().BoolVar(&files, "files", false, "also show how the files' text differs")
	c.Flags().StringVar(&f.root, "root", "", "a folder that stands for the machine's root, for live")
	c.Flags().StringVar(&f.machine, "machine", "", "the machine of the mapping that this one is, for live")
	return c
}

// live is what this machine has now, and @ begins a machine of the mapping.
const (
	liveSide    = "live"
	machineSide = "@"
)

func isSide(operand string) bool {
	return operand == liveSide || strings.HasPrefix(operand, machineSide)
}

// diffSides holds one machine against another, each as it is somewhere.
func (a *app) diffSides(x, y string, f placing, files bool) error {
	if x == liveSide && y == liveSide {
		return errors.New("live is the same as live")
	}
	// Who is one machine says which one the other is.
	for _, operand := range []string{x, y} {
		if name, ok := strings.CutPrefix(operand, machineSide); ok && f.machine == "" {
			f.machine = name
		}
	}
	if f.machine == "" && (x == liveSide || y == liveSide) {
		mp, _, err := a.load(a.file())
		if err != nil {
			return err
		}
		m, err := install.Pick(mp, here(), hostname(), "", f.root != "")
		if err != nil {
			return err
		}
		f.machine = m.Name
	}
	was, now, err := a.side(x, f, y == liveSide)
	if err != nil {
		return err
	}
	is, nowToo, err := a.side(y, f, x == liveSide)
	if err != nil {
		return err
	}
	d := compare.Sides(was, is)
	if now == nil {
		now = nowToo
	}
	if now != nil && now.installed != nil && d.Broken == "" && !compiled(x) && !compiled(y) {
		d.Since = compare.Since(d.Presses, *now.installed, now.Side)
	}
	return a.diffFolder([]compare.MachineDifference{d}, files, y, x)
}

// liveNow is what this machine has now, and what it had when it was installed, nil where nothing was.
type liveNow struct {
	compare.Side
	installed *compare.Side
}

// side is one machine as an operand says it. now is what this machine has, if the operand is live; withLive says that the
// other operand is.
func (a *app) side(operand string, f placing, withLive bool) (s compare.Side, now *liveNow, err error) {
	if name, ok := strings.CutPrefix(operand, machineSide); ok {
		f.machine, operand = name, a.file()
	}
	if compiled(operand) {
		if f.machine == "" {
			return s, nil, fmt.Errorf("%s has folders of several machines: say --machine", operand)
		}
		s, err = compare.SideOfFolder(onDisk(operand), f.machine)
		return s, nil, err
	}
	path := operand
	if operand == liveSide {
		path = a.file()
	}
	b, err := a.sideOf(path, f, operand == liveSide || withLive)
	if err != nil || operand != liveSide {
		if err == nil {
			s, err = compare.SideOf(b)
		}
		return s, nil, err
	}
	here, err := a.begin(f)
	if err != nil {
		return s, nil, err
	}
	defer here.End()
	j := here.Journal
	places := append(b.Changes(), install.Changes(install.Mapped(j.Items))...)
	if s, err = compare.SideIn(b, places, install.Store(here.Machine)); err != nil || len(j.Items) == 0 {
		return s, &liveNow{Side: s}, err
	}
	installed, err := compare.SideIn(b, places, install.InstalledStore(here.Machine, j.Installed))
	return s, &liveNow{s, &installed}, err
}

// sideOf builds the machine of a mapping that is named, or that is like this one.
func (a *app) sideOf(path string, f placing, must bool) (*compile.Build, error) {
	if f.machine == "" || must {
		f.root = cmp.Or(f.root, "/") // whatever this machine is, it is only read
		f.quiet = true
		return a.wantedHere(path, f, nil)
	}
	_, builds, diags, err := a.build(path, []string{f.machine})
	if err != nil {
		return nil, err
	}
	if diags.HasErrors() {
		a.complain(diags)
		return nil, fmt.Errorf("%s has errors, so it cannot be compared", path)
	}
	return builds[0], nil
}

func compiled(path string) bool {
	info, err := os.Stat(path)
	return err == nil && info.IsDir() && compare.IsCompiled(onDisk(path))
}

func (a *app) diffMappings(x, y string) error {
	var both [2]*mapping.Mapping
	for i, path := range []string{x, y} {
		m, diags, err := a.load(path)
		if err != nil {
			return err
		}
		if diags.HasErrors() {
			a.complain(diags)
			return fmt.Errorf("%s has errors, so it cannot be compared", path)
		}
		both[i] = m
	}
	list := compare.Mappings(both[0], both[1])
	said := report.DifferencesOf(list)
	if err := a.say(said, func() { a.text.Differences(said, x, y) }); err != nil {
		return err
	}
	if len(list) > 0 {
		return exit{exitErrors}
	}
	return nil
}

func (a *app) diffCompiled(path, folder string, files bool) error {
	_, builds, diags, err := a.build(path, nil)
	if err != nil {
		return err
	}
	if diags.HasErrors() {
		a.complain(diags)
		return fmt.Errorf("%s has errors, so it cannot be compared", path)
	}
	list, err := compare.Folder(onDisk(folder), builds)
	if err != nil {
		return err
	}
	return a.diffFolder(list, files, path, folder)
}

// diffFolder tells how machines in a folder differ from what path says.
func (a *app) diffFolder(list []compare.MachineDifference, files bool, path, folder string) error {
	said := report.FolderDifferencesOf(list)
	err := a.say(said, func() { a.text.FolderDifferences(said, path, folder, files) })
	if err == nil && slices.ContainsFunc(list, func(d compare.MachineDifference) bool { return !d.Same() }) {
		return exit{exitErrors}
	}
	return err
}
