package cli

import (
	"cmp"
	"errors"
	"fmt"
	"io/fs"
	"path/filepath"

	"github.com/spf13/cobra"

	"leitstand/core/folder"
	"leitstand/core/imports"
	"leitstand/core/mechanism"
	"leitstand/core/report"
)

func (a *app) importing() *cobra.Command {
	var out, name string
	var layouts []string
	c := &cobra.Command{
		Use:   "import PATH…",
		Short: "Write a mapping from existing native files",
		Long: `Reads native files, or folders of them, and prints a mapping that does the same. It reads
folders that compile wrote, and what you or a settings panel wrote. Files that do not say
which machine they are for are taken to be this one's. What the language has no word for is
listed as comments.

Settings that are in no file have to be written to one first: dconf dump / >desktop.ini for
GNOME, MATE and Cinnamon, xkbcomp "$DISPLAY" keymap.xkb for an X server's keyboard.`,
		Example: "  leitstand import ~/.config/i3/config\n  leitstand import ~/.config/kglobalshortcutsrc /etc/" +
			"udev/hwdb.d -o leitstand.hcl\n  leitstand import compiled",
		Args: cobra.MinimumNArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			at := here()
			at.Name = cmp.Or(name, hostname(), at.Name)
			got, err := imports.Files(paths(args), at, layouts)
			if err != nil {
				return err
			}
			if out != "" && out != "-" && a.format == "text" {
				return a.keep(out, got)
			}
			return a.printMapping(got)
		},
	}
	a.formatFlag(c)
	c.Flags().StringVarP(&out, "output", "o", "", "write the mapping to this file, which must not be there yet; - prints it")
	c.Flags().StringVar(&name, "name", "", "the machine's name, where files do not say (default: this machine's)")
	c.Flags().StringSliceVar(
		&layouts, "layouts", nil,
		"the machine's layouts, by their XKB names (default: those that the files set, or this machine's)",
	)
	return c
}

// paths are arguments as the core takes them.
func paths(args []string) []imports.Path {
	list := make([]imports.Path, len(args))
	for i, arg := range args {
		dir, name := filepath.Split(filepath.Clean(arg))
		if dir == "" {
			dir = "."
		}
		if name == "" || name == "." || name == ".." {
			dir, name = arg, "."
		}
		list[i] = imports.Path{FS: onDisk(dir), Name: name, Shown: filepath.ToSlash(arg)}
	}
	return list
}

// printMapping prints what was gathered.
func (a *app) printMapping(got imports.Gathered) error {
	got.LeaveLibraries()
	mapping, left, err := got.Text()
	if err != nil {
		return err
	}
	said := report.Imported{
		Version: report.Version,
		Mapping: string(mapping),
		Left:    append([]mechanism.Left{}, left...),
	}
	return a.say(said, func() { fmt.Fprint(a.stdout, said.Mapping) })
}

// keep writes a new mapping, and the libraries that it names beside it.
func (a *app) keep(name string, got imports.Gathered) error {
	said, left, err := got.Text()
	if err != nil {
		return err
	}
	var files []folder.File
	for _, f := range append(got.Libraries(), mechanism.File{Path: filepath.Base(name), Data: said}) {
		files = append(files, folder.File{Path: f.Path, Data: f.Data})
	}
	err = folder.NewFiles(filepath.Dir(name), files)
	if there := (*fs.PathError)(nil); errors.Is(err, fs.ErrExist) && errors.As(err, &there) {
		return fmt.Errorf("%s is there already; name a new file", there.Path)
	} else if err != nil {
		return err
	}
	mp, diags, err := a.load(name)
	if err != nil {
		return err
	}
	a.text.Findings(diags)
	a.text.Written(name, mp, len(left))
	if diags.HasErrors() {
		return exit{exitErrors}
	}
	return nil
}
