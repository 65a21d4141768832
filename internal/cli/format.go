package cli

import (
	"bytes"
	"fmt"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"leitstand/core/folder"
	"leitstand/core/mapping"
	"leitstand/core/report/text"
)

func (a *app) formatting() *cobra.Command {
	var check bool
	c := &cobra.Command{
		Use:   "format [FILE…]",
		Short: "Lay out a mapping evenly; comments stay",
		Long: `Rewrites the files (or the mapping of --file) with even indentation, spacing and aligned
equals signs. Nothing else changes. --check writes nothing, and exits with 1 if a file is
not laid out that way.`,
		Example: "  leitstand format\n  leitstand format --check leitstand.hcl",
		RunE: func(_ *cobra.Command, files []string) error {
			if len(files) == 0 {
				var err error
				if files, err = mappingFiles(a.file()); err != nil {
					return err
				}
			}
			edits, err := edits(files)
			if err != nil {
				return err
			}
			if !check {
				if err := folder.Replace(edits); err != nil {
					return fmt.Errorf("nothing was laid out anew: %w", err)
				}
			}
			changed := len(edits)
			for _, e := range edits {
				words := "laid out anew"
				if check {
					words = "is not laid out evenly"
				}
				fmt.Fprintf(a.stdout, "%s %s\n", e.Name, words)
			}
			if changed == 0 {
				fmt.Fprintf(a.stdout, "%s laid out evenly already.\n", text.Plural(len(files), "file is", "files are"))
			}
			if check && changed > 0 {
				return exit{exitErrors}
			}
			return nil
		},
	}
	c.Flags().BoolVar(&check, "check", false, "only say which files would change")
	return c
}

// mappingFiles are the files of a mapping, itself or those in its folder.
func mappingFiles(path string) ([]string, error) {
	info, err := os.Stat(path)
	if err != nil || !info.IsDir() {
		return []string{path}, err
	}
	files, err := filepath.Glob(filepath.Join(path, "*.hcl"))
	if err == nil && len(files) == 0 {
		err = fmt.Errorf("%s has no .hcl file in it", path)
	}
	return files, err
}

// edits are the files that are to change. All are read before the first is written.
func edits(files []string) ([]folder.Edit, error) {
	var list []folder.Edit
	for _, name := range files {
		if info, err := os.Stat(name); err == nil && (!info.Mode().IsRegular() || info.Size() > mapping.MaxSize) {
			return nil, fmt.Errorf("%s is no mapping: a device, a pipe, a folder, or too large", name)
		}
		was, err := os.ReadFile(name)
		if err != nil {
			return nil, err
		}
		is, err := mapping.Format(was)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
		if !bytes.Equal(was, is) {
			list = append(list, folder.Edit{Name: name, Was: was, New: is})
		}
	}
	return list, nil
}
