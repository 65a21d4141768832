package compare

import (
	"bytes"
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"
	"unicode/utf8"

	"github.com/pmezard/go-difflib/difflib"
	"golang.org/x/text/encoding/unicode"

	"leitstand/core/behaviour"
	"leitstand/core/compile"
	"leitstand/core/target"
)

// MachineDifference is how a machine's compiled folder differs from what the
// mapping compiles to now.
type MachineDifference struct {
	Machine string
	Missing bool   // the folder has nothing for this machine
	Unknown bool   // the folder has a machine that the mapping does not know
	Broken  string // why the folder cannot be read, "" if it can
	Presses []behaviour.Change
	Files   []FileDifference
}

// Same says whether nothing differs.
func (d MachineDifference) Same() bool {
	return !d.Missing && !d.Unknown && d.Broken == "" && len(d.Presses) == 0 && len(d.Files) == 0
}

// FileDifference is one file that differs.
type FileDifference struct {
	Path    string
	Kind    Kind
	Unified string // unified text from the folder's to the mapping's, "" for binary files
}

// IsCompiled says whether a folder was written by compile.
func IsCompiled(fsys fs.FS) bool { return len(compile.Folders(fsys)) > 0 }

// Folder holds compiled machines against a folder compiled before: by what a
// press does, and file by file.
func Folder(fsys fs.FS, builds []*compile.Build) ([]MachineDifference, error) {
	var list []MachineDifference
	present := compile.Folders(fsys)
	for _, b := range builds {
		d := MachineDifference{Machine: b.Machine.Name}
		if !slices.Contains(present, d.Machine) {
			d.Missing = true
			list = append(list, d)
			continue
		}
		sub, err := fs.Sub(fsys, d.Machine)
		if err != nil {
			return nil, err
		}
		if _, was, err := compile.ReadFolder(sub); err != nil {
			d.Broken = err.Error()
		} else if is, err := compile.Read(b.Machine, target.Folder(b.Files)); err != nil {
			return nil, err
		} else {
			d.Presses = behaviour.Compare(was.Bindings, is.Bindings)
		}
		if d.Files, err = files(sub, b); err != nil {
			return nil, err
		}
		list = append(list, d)
	}
	for _, name := range present {
		if !slices.ContainsFunc(builds, func(b *compile.Build) bool { return b.Machine.Name == name }) {
			list = append(list, MachineDifference{Machine: name, Unknown: true})
		}
	}
	return list, nil
}

func files(fsys fs.FS, b *compile.Build) ([]FileDifference, error) {
	var list []FileDifference
	want := map[string]bool{}
	for _, f := range b.Folder() {
		want[f.Path] = true
		was, err := fs.ReadFile(fsys, f.Path)
		switch {
		case errors.Is(err, fs.ErrNotExist):
			list = append(list, FileDifference{f.Path, Added, unified(f.Path, nil, f.Data)})
		case err != nil:
			return nil, err
		case !bytes.Equal(was, f.Data):
			list = append(list, FileDifference{f.Path, Changed, unified(f.Path, was, f.Data)})
		}
	}
	err := fs.WalkDir(fsys, ".", func(p string, e fs.DirEntry, err error) error {
		if err != nil || e.IsDir() || want[p] {
			return err
		}
		was, err := fs.ReadFile(fsys, p)
		if err != nil {
			return err
		}
		list = append(list, FileDifference{p, Removed, unified(p, was, nil)})
		return nil
	})
	slices.SortFunc(list, func(a, b FileDifference) int { return strings.Compare(a.Path, b.Path) })
	return list, err
}

// unified is the unified text of two files, "" if either is not text.
func unified(name string, was, is []byte) string {
	a, ok1 := text(was)
	b, ok2 := text(is)
	if !ok1 || !ok2 {
		return ""
	}
	out, err := difflib.GetUnifiedDiffString(difflib.UnifiedDiff{
		A: lines(a), B: lines(b), FromFile: "compiled/" + name, ToFile: "mapping/" + name, Context: 2,
	})
	if err != nil {
		return fmt.Sprintf("cannot be compared: %v\n", err)
	}
	return out
}

func lines(s string) []string {
	if s == "" {
		return nil
	}
	list := strings.SplitAfter(s, "\n")
	if last := len(list) - 1; list[last] == "" {
		list = list[:last]
	} else {
		list[last] += "\n"
	}
	return list
}

// text decodes UTF-8, and UTF-16 with a byte order mark.
func text(data []byte) (string, bool) {
	if bytes.HasPrefix(data, []byte{0xFF, 0xFE}) {
		out, err := unicode.UTF16(unicode.LittleEndian, unicode.ExpectBOM).NewDecoder().Bytes(data)
		return strings.ReplaceAll(string(out), "\r\n", "\n"), err == nil
	}
	return string(data), utf8.Valid(data) && !bytes.ContainsRune(data, 0)
}
