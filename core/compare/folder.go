package compare

import (
	"bytes"
	"fmt"
	"io/fs"
	"slices"
	"strings"
	"unicode/utf8"

	"github.com/pmezard/go-difflib/difflib"
	"golang.org/x/text/encoding/unicode"

	"leitstand/core/behaviour"
	"leitstand/core/compile"
	"leitstand/core/mechanism"
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
	// Since says of presses where the difference comes from, of a machine on which something was installed.
	Since map[behaviour.Place]Origin
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

// compiled is a machine, compiled: what its files do, and the files.
type compiled struct {
	bindings []behaviour.Binding
	files    map[string][]byte
}

// Folder holds compiled machines against a folder compiled before: by what a
// press does, and file by file.
func Folder(fsys fs.FS, builds []*compile.Build) ([]MachineDifference, error) {
	var list []MachineDifference
	present := compile.Folders(fsys)
	for _, b := range builds {
		is, err := compile.Read(b.Machine, mechanism.Folder(b.Files()))
		if err != nil {
			return nil, err
		}
		files := map[string][]byte{}
		for _, f := range b.Folder() {
			files[f.Path] = f.Data
		}
		d, err := machine(fsys, present, b.Machine.Name, compiled{is.Bindings, files})
		if err != nil {
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

// Folders holds two folders against each other that were compiled before.
func Folders(was, is fs.FS) ([]MachineDifference, error) {
	var list []MachineDifference
	before, after := compile.Folders(was), compile.Folders(is)
	for _, name := range after {
		got, files, err := read(is, name)
		if err != nil {
			list = append(list, MachineDifference{Machine: name, Broken: err.Error()})
			continue
		}
		d, err := machine(was, before, name, compiled{got, files})
		if err != nil {
			return nil, err
		}
		list = append(list, d)
	}
	for _, name := range before {
		if !slices.Contains(after, name) {
			list = append(list, MachineDifference{Machine: name, Unknown: true})
		}
	}
	return list, nil
}

// machine holds one machine against its folder.
func machine(fsys fs.FS, present []string, name string, is compiled) (MachineDifference, error) {
	d := MachineDifference{Machine: name}
	if !slices.Contains(present, name) {
		d.Missing = true
		return d, nil
	}
	bindings, files, err := read(fsys, name)
	if files == nil && err != nil {
		return d, err
	} else if err != nil {
		d.Broken = err.Error()
	} else {
		d.Presses = behaviour.Compare(bindings, is.bindings)
	}
	d.Files = differences(files, is.files)
	return d, nil
}

// read reads a machine's folder: what its files do, and the files. With files, the error
// says why what they do cannot be told.
func read(fsys fs.FS, name string) ([]behaviour.Binding, map[string][]byte, error) {
	sub, err := fs.Sub(fsys, name)
	if err != nil {
		return nil, nil, err
	}
	files := map[string][]byte{}
	err = fs.WalkDir(sub, ".", func(p string, e fs.DirEntry, err error) error {
		if err != nil || e.IsDir() {
			return err
		}
		files[p], err = fs.ReadFile(sub, p)
		return err
	})
	if err != nil {
		return nil, nil, err
	}
	_, got, err := compile.ReadFolder(sub)
	return got.Bindings, files, err
}

// differences lists the files that differ. What is only said to a reader of the steps is no
// difference.
func differences(was, is map[string][]byte) []FileDifference {
	var list []FileDifference
	for p, data := range is {
		before, there := was[p]
		switch {
		case compile.ServesSteps(p) && there:
		case p == compile.DescriptionFile && compile.SameMachine(before, data):
		case !there:
			list = append(list, FileDifference{p, Added, unified(p, nil, data)})
		case !bytes.Equal(before, data):
			list = append(list, FileDifference{p, Changed, unified(p, before, data)})
		}
	}
	for p, data := range was {
		if _, there := is[p]; !there {
			list = append(list, FileDifference{p, Removed, unified(p, data, nil)})
		}
	}
	slices.SortFunc(list, func(a, b FileDifference) int { return strings.Compare(a.Path, b.Path) })
	return list
}

// Unified is how the text of a file changes, "" if either is no text.
func Unified(name string, was, is []byte) string { return unifiedText(name, name, was, is) }

// unified is the unified text of two files, "" if either is not text.
func unified(name string, was, is []byte) string {
	return unifiedText("compiled/"+name, "mapping/"+name, was, is)
}

func unifiedText(from, to string, was, is []byte) string {
	a, ok1 := text(was)
	b, ok2 := text(is)
	if !ok1 || !ok2 {
		return ""
	}
	out, err := difflib.GetUnifiedDiffString(difflib.UnifiedDiff{
		A: lines(a), B: lines(b), FromFile: from, ToFile: to, Context: 2,
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
