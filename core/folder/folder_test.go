package folder_test

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/folder"
)

// set is files with their record.
func set(name string, files map[string]string) folder.Set {
	s := folder.Set{Name: name, Record: "record"}
	digests := map[string]string{}
	for p, text := range files {
		s.Files = append(s.Files, folder.File{Path: p, Data: []byte(text)})
		digests[p] = folder.Digest([]byte(text))
	}
	record, _ := json.Marshal(digests)
	s.Files = append(s.Files, folder.File{Path: "record", Data: record})
	return s
}

func read(text []byte) (map[string]string, bool) {
	var digests map[string]string
	return digests, json.Unmarshal(text, &digests) == nil
}

func write(dir string, files map[string]string) error {
	return folder.Write(dir, []folder.Set{set("gauge", files)}, read)
}

// tree is what is below a folder.
func tree(t *testing.T, dir string) map[string]string {
	found := map[string]string{}
	require.NoError(t, filepath.WalkDir(dir, func(p string, e os.DirEntry, err error) error {
		if err != nil || !e.Type().IsRegular() {
			return err
		}
		text, err := os.ReadFile(p)
		rel, _ := filepath.Rel(dir, p)
		found[filepath.ToSlash(rel)] = string(text)
		return err
	}))
	delete(found, "gauge/record")
	return found
}

// What somebody else has put there, or changed, is not touched, and is named where it is in
// the way.
func TestOnlyOurs(t *testing.T) {
	for name, c := range map[string]struct {
		before func(dir string)
		files  map[string]string
		wrong  string
		after  map[string]string
	}{
		"beside ours":         {func(d string) { put(d+"/gauge/notes", "mine") }, map[string]string{"a": "1"}, "", map[string]string{"gauge/notes": "mine", "gauge/a": "1"}},
		"in the way":          {func(d string) { put(d+"/gauge/STEPS.md", "mine") }, map[string]string{"STEPS.md": "1"}, "STEPS.md is there already", map[string]string{"gauge/STEPS.md": "mine"}},
		"a record of another": {func(d string) { put(d+"/gauge/record", "mine") }, map[string]string{"a": "1"}, "record is there already", map[string]string{}},
		"changed since":       {func(d string) { must(write(d, map[string]string{"a": "1"})); put(d+"/gauge/a", "mine") }, map[string]string{"a": "2"}, "a is there already, and not as we have written it", map[string]string{"gauge/a": "mine"}},
		"changed and gone":    {func(d string) { must(write(d, map[string]string{"a": "1", "b": "1"})); put(d+"/gauge/a", "mine") }, map[string]string{"b": "2"}, "", map[string]string{"gauge/a": "mine", "gauge/b": "2"}},
		"gone":                {func(d string) { must(write(d, map[string]string{"a/b/c": "1", "b": "1"})) }, map[string]string{"b": "2"}, "", map[string]string{"gauge/b": "2"}},
		"the same":            {func(d string) { put(d+"/gauge/a", "1") }, map[string]string{"a": "1"}, "", map[string]string{"gauge/a": "1"}},
		"a forged record": {func(d string) {
			put(d+"/precious", "mine")
			put(d+"/gauge/kept", "mine")
			put(d+"/gauge/record", forged)
		}, map[string]string{"a": "1"}, "", map[string]string{"precious": "mine", "gauge/kept": "mine", "gauge/a": "1"}},
		"a folder of a user":  {func(d string) { put(d+"/.leitstand-new/x", "mine"); put(d+"/.leitstand-new-1/x", "mine") }, map[string]string{"a": "1"}, "", map[string]string{".leitstand-new/x": "mine", ".leitstand-new-1/x": "mine", "gauge/a": "1"}},
		"a folder for a file": {func(d string) { put(d+"/gauge/a/x", "mine") }, map[string]string{"a": "1"}, "is a folder where a file should go", map[string]string{"gauge/a/x": "mine"}},
		"a file for a folder": {func(d string) { put(d+"/gauge/a", "mine") }, map[string]string{"a/b": "1"}, "is a file or a link where a folder should be", map[string]string{"gauge/a": "mine"}},
		"a link for a folder": {func(d string) { put(d+"/elsewhere/x", "mine"); must(os.Symlink("elsewhere", d+"/gauge")) }, map[string]string{"a": "1"}, "is a file or a link", map[string]string{"elsewhere/x": "mine"}},
		"a link that dangles": {func(d string) { put(d+"/gauge/x", ""); must(os.Symlink("../../away", d+"/gauge/a")) }, map[string]string{"a": "1"}, "is a link or a device", nil},
		"a link of our record": {func(d string) {
			must(os.MkdirAll(d+"/gauge", 0o755))
			must(os.Symlink("/etc/hostname", d+"/gauge/record"))
		}, map[string]string{"a": "1"}, "", nil},
	} {
		t.Run(name, func(t *testing.T) {
			dir := t.TempDir()
			c.before(dir)
			err := write(dir, c.files)
			if c.wrong != "" {
				require.ErrorContains(t, err, c.wrong)
			}
			if c.after != nil {
				assert.Equal(t, c.after, tree(t, dir))
			}
			entries, err := os.ReadDir(dir)
			require.NoError(t, err)
			for _, e := range entries {
				assert.False(t, strings.HasPrefix(e.Name(), ".leitstand-new-") &&
					len(e.Name()) > 20, "%s is left over", e.Name())
			}
		})
	}
	assert.NoFileExists(t, filepath.Join(t.TempDir(), "away"))
}

// forged names files that are others', with wrong digests and with paths that lead out.
var forged = fmt.Sprintf(
	`{"kept": "00", "../precious": %q, ".": "", "/etc/hostname": "", "": ""}`,
	folder.Digest([]byte("mine")),
)

func put(name, text string) {
	must(os.MkdirAll(filepath.Dir(name), 0o755))
	must(os.WriteFile(name, []byte(text), 0o644))
}

func must(err error) {
	if err != nil {
		panic(err)
	}
}

// Of many runs at once each is done, one after the other, and what is there is of one.
func TestAtOnce(t *testing.T) {
	dir := t.TempDir()
	var wait sync.WaitGroup
	errs := make([]error, 16)
	for i := range errs {
		wait.Go(func() {
			files := map[string]string{}
			for f := range 20 {
				files[fmt.Sprint("f", f)] = fmt.Sprint(i)
			}
			errs[i] = write(dir, files)
		})
	}
	wait.Wait()
	for _, err := range errs {
		require.NoError(t, err)
	}
	found := tree(t, dir)
	require.Len(t, found, 20)
	for p, text := range found {
		assert.Equal(t, found["gauge/f0"], text, p)
	}
}

// What a run had begun when it was killed, the next one ends, wherever it was killed.
func TestCompleted(t *testing.T) {
	before, after := map[string]string{
		"a":    "1",
		"b":    "1",
		"gone": "1",
	}, map[string]string{
		"a":   "2",
		"b":   "2",
		"new": "2",
	}
	for moved := range 4 {
		dir := t.TempDir()
		require.NoError(t, write(dir, before))
		aside := dir + "/.leitstand-new-0123456789abcdef"
		put(aside+"/unfinished", "Written by leitstand, and moved into place when it is whole. The next run ends "+
			"what was begun.\n")
		moves := []string{}
		for i, p := range []string{"a", "b", "new"} {
			was := ""
			if before[p] != "" {
				was = fmt.Sprintf(`, "was": %q`, folder.Digest([]byte("1")))
			}
			moves = append(moves, fmt.Sprintf(`{"name": "gauge/%s"%s}`, p, was))
			if i < moved {
				put(dir+"/gauge/"+p, after[p])
			} else {
				put(aside+"/files/gauge/"+p, after[p])
			}
		}
		put(
			aside+"/journal.json",
			fmt.Sprintf(
				`{"moves": [%s], "removals": [{"name": "gauge/gone", "was": %q}]}`,
				strings.Join(moves, ", "),
				folder.Digest([]byte("1")),
			),
		)
		require.NoError(t, folder.Write(dir, []folder.Set{set("other", map[string]string{"x": "1"})}, read))
		found := tree(t, dir)
		delete(found, "other/x")
		delete(found, "other/record")
		assert.Equal(t, map[string]string{"gauge/a": "2", "gauge/b": "2", "gauge/new": "2"}, found, "%d moved", moved)
		assert.NoDirExists(t, aside)
	}
	// Killed while it marked its folder, it had done nothing; a file of somebody's stays.
	for _, said := range []string{"", "Written by"} {
		dir := t.TempDir()
		require.NoError(t, write(dir, before))
		put(dir+"/.leitstand-new-0123456789abcdef/unfinished", said)
		put(dir+"/.leitstand-new-mine/unfinished", said)
		put(dir+"/.leitstand-new-mine/notes", "mine")
		put(dir+"/.leitstand-new-list/unfinished", "tar the pier")
		require.NoError(t, folder.Write(dir, nil, read))
		assert.Equal(
			t,
			map[string]string{
				"gauge/a":                        "1",
				"gauge/b":                        "1",
				"gauge/gone":                     "1",
				".leitstand-new-mine/unfinished": said,
				".leitstand-new-mine/notes":      "mine",
				".leitstand-new-list/unfinished": "tar the pier",
			},
			tree(t, dir),
		)
	}
	// Without a journal nothing had changed places, and nothing does.
	dir := t.TempDir()
	require.NoError(t, write(dir, before))
	put(dir+"/.leitstand-new-00/unfinished", "Written by leitstand, and moved into place when it is whole. The "+
		"next run ends what was begun.\n")
	put(dir+"/.leitstand-new-00/files/gauge/a", "2")
	require.NoError(t, folder.Write(dir, nil, read))
	assert.Equal(t, map[string]string{"gauge/a": "1", "gauge/b": "1", "gauge/gone": "1"}, tree(t, dir))
}

// Folders that a run empties go, those with something of somebody's stay, and what is no
// file any more is left alone.
func TestEmptiedFolders(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, write(dir, map[string]string{"a/b/c": "1", "d/e": "1", "f": "1"}))
	put(dir+"/gauge/d/mine", "x")
	require.NoError(t, os.Remove(dir+"/gauge/f"))
	require.NoError(t, os.Mkdir(dir+"/gauge/f", 0o755))
	put(dir+"/gauge/f/mine", "x")
	require.NoError(t, write(dir, map[string]string{"g": "1"}))
	assert.NoDirExists(t, dir+"/gauge/a")
	assert.Equal(t, map[string]string{"gauge/d/mine": "x", "gauge/f/mine": "x", "gauge/g": "1"}, tree(t, dir))
}

// A new folder can be read by all, and one that cannot be made says where it ends.
func TestNewFolder(t *testing.T) {
	if runtime.GOOS == "windows" {
		t.Skip("there are no modes")
	}
	dir := filepath.Join(t.TempDir(), "a/b")
	require.NoError(t, write(dir, map[string]string{"x": "1"}))
	info, err := os.Stat(dir)
	require.NoError(t, err)
	require.NoError(t, os.Mkdir(dir+"/as-mkdir", 0o755))
	as, err := os.Stat(dir + "/as-mkdir")
	require.NoError(t, err)
	assert.Equal(t, as.Mode(), info.Mode())
	put(dir+"/file", "x")
	assert.ErrorContains(t, write(dir+"/file/sub/deep", map[string]string{"x": "1"}), dir+"/file is a file")
	if runtime.GOOS == "linux" {
		assert.ErrorContains(
			t, write("/proc/leitstand/deep", map[string]string{"x": "1"}),
			"the folder /proc/leitstand/deep cannot be made: no such file",
		)
	}
}

// Files are replaced as a careful editor does, and all or none.
func TestReplace(t *testing.T) {
	dir := t.TempDir()
	name := func(n string) string { return filepath.Join(dir, n) }
	edit := func(n string) folder.Edit {
		return folder.Edit{Name: name(n), Was: []byte("old, longer"), New: []byte("new")}
	}
	put(name("plain"), "old, longer")
	require.NoError(t, os.Chmod(name("plain"), 0o640))
	put(name("linked"), "old, longer")
	require.NoError(t, os.Link(name("linked"), name("second")))
	require.NoError(t, os.Symlink("plain", name("symbolic")))
	require.NoError(t, folder.Replace([]folder.Edit{edit("symbolic"), edit("linked")}))
	for _, n := range []string{"plain", "linked", "second"} {
		text, err := os.ReadFile(name(n))
		require.NoError(t, err)
		assert.Equal(t, "new", string(text), n)
	}
	info, err := os.Lstat(name("symbolic"))
	require.NoError(t, err)
	assert.NotZero(t, info.Mode()&os.ModeSymlink)
	info, err = os.Stat(name("plain"))
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o640), info.Mode().Perm())

	put(name("a"), "old, longer")
	put(name("locked"), "old, longer")
	require.NoError(t, os.Chmod(name("locked"), 0o444))
	require.ErrorContains(t, folder.Replace([]folder.Edit{edit("a"), edit("locked")}), "is read-only")
	for _, n := range []string{"a", "locked"} {
		text, err := os.ReadFile(name(n))
		require.NoError(t, err)
		assert.Equal(t, "old, longer", string(text), "all or none: %s", n)
	}
	entries, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Len(t, entries, 6, "nothing is left over: %v", entries)
	require.ErrorIs(t, folder.NewFile(name("a"), nil), os.ErrExist)
}

// Files are made all or none, and one that is there with the same bytes is in nobody's way.
func TestNewFiles(t *testing.T) {
	dir := t.TempDir()
	set := func(library string) []folder.File {
		return []folder.File{{Path: "new.dll", Data: []byte("n")}, {Path: "de.dll", Data: []byte(library)}, {Path: "m.hcl"}}
	}
	require.NoError(t, os.WriteFile(filepath.Join(dir, "de.dll"), []byte("theirs"), 0o600))
	require.ErrorIs(t, folder.NewFiles(dir, set("ours")), os.ErrExist)
	require.NoFileExists(t, filepath.Join(dir, "new.dll"))
	require.NoFileExists(t, filepath.Join(dir, "m.hcl"))
	require.NoError(t, folder.NewFiles(dir, set("theirs")))
	require.FileExists(t, filepath.Join(dir, "m.hcl"))
	require.ErrorIs(t, folder.NewFiles(dir, set("theirs")), os.ErrExist, "the mapping is new")
	require.FileExists(t, filepath.Join(dir, "new.dll"))
}
