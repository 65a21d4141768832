package cli

import (
	"fmt"
	"os"
	"slices"

	"github.com/spf13/cobra"

	"leitstand/core/compare"
	"leitstand/core/mapping"
	"leitstand/core/report"
)

func (a *app) diff() *cobra.Command {
	var files bool
	c := &cobra.Command{
		Use:   "diff A [B]",
		Short: "What differs between two mappings, or a mapping and a compiled folder",
		Long: `A and B are each a mapping (a file, or a folder of .hcl files) or a folder that
compile wrote; with A alone, the mapping of -f is held against it. Two mappings
are compared rule by rule; a mapping and a compiled folder by what a press does
on each machine, and with --files also file by file.
Exit code 0: the same; 1: different; 2: could not run.`,
		Example: "  leitstand diff old.hcl new.hcl\n  leitstand diff compiled\n  leitstand diff compiled --files",
		Args:    cobra.RangeArgs(1, 2),
		RunE: func(_ *cobra.Command, args []string) error {
			x, y := args[0], args[len(args)-1]
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
	return c
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
