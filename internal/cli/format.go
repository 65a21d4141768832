package cli

import (
	"bytes"
	"fmt"
	"os"
	"path/filepath"

	"github.com/google/renameio/v2/maybe"
	"github.com/spf13/cobra"

	"leitstand/core/mapping"
)

func (a *app) formatting() *cobra.Command {
	var check bool
	c := &cobra.Command{
		Use:   "format [FILE…]",
		Short: "Lay out a mapping evenly, keeping every comment",
		Long: `Rewrites the files (or the mapping of -f) with even indentation, spaces and
aligned equals signs. Nothing else changes. With --check nothing is written, and
the exit code is 1 if a file is not laid out so.`,
		RunE: func(_ *cobra.Command, files []string) error {
			if len(files) == 0 {
				var err error
				if files, err = mappingFiles(a.file); err != nil {
					return err
				}
			}
			changed := 0
			for _, name := range files {
				was, err := os.ReadFile(name)
				if err != nil {
					return err
				}
				is, err := mapping.Format(was)
				if err != nil {
					return fmt.Errorf("%s: %w", name, err)
				}
				if bytes.Equal(was, is) {
					continue
				}
				changed++
				if check {
					fmt.Fprintf(a.stdout, "%s is not laid out evenly\n", name)
					continue
				}
				if err := replaceFile(name, is); err != nil {
					return err
				}
				fmt.Fprintf(a.stdout, "%s laid out anew\n", name)
			}
			if changed == 0 {
				fmt.Fprintf(a.stdout, "%s laid out evenly already.\n", plural(len(files), "file is", "files are"))
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

// replaceFile writes a file anew in one step, through a link to it, keeping its
// permissions.
func replaceFile(name string, text []byte) error {
	real, err := filepath.EvalSymlinks(name)
	if err != nil {
		return err
	}
	info, err := os.Stat(real)
	if err != nil {
		return err
	}
	return maybe.WriteFile(real, text, info.Mode().Perm())
}
