package folder

import (
	"encoding/json"
	"errors"
	"io/fs"
	"path"
	"strings"
)

// journal is what is left to do when all files are written aside.
type journal struct {
	Moves    []move `json:"moves"`    // from aside into place
	Removals []move `json:"removals"` // of files that are no longer made
}

// move is a file, and the digest of what is there before, "" for nothing.
type move struct {
	Name string `json:"name"`
	Was  string `json:"was,omitempty"`
}

const journalName = "journal.json"

// writeJournal writes the journal in one step, so that it is whole or not there.
func (t *tree) writeJournal(aside string, j journal) error {
	text, err := json.Marshal(j)
	if err != nil {
		return err
	}
	part := path.Join(aside, "journal.part")
	if err := t.root.WriteFile(part, text, 0o644); err != nil {
		return err
	}
	return t.root.Rename(part, path.Join(aside, journalName))
}

// complete ends what earlier runs had begun when they were killed. A folder is one of theirs
// by its name and its mark.
func (t *tree) complete() error {
	entries, err := fs.ReadDir(t.root.FS(), ".")
	if err != nil {
		return err
	}
	for _, e := range entries {
		said, err := t.root.ReadFile(path.Join(e.Name(), mark))
		if !strings.HasPrefix(e.Name(), ours) || !e.IsDir() || err != nil && !errors.Is(err, fs.ErrNotExist) {
			continue
		}
		if err != nil { // killed before it was marked, or when all was gone but the folder
			_ = t.remove(e.Name()) // which only an empty one lets
			continue
		}
		if string(said) != says && !t.barelyMarked(e.Name(), string(said)) {
			continue
		}
		var j journal
		if text, err := t.root.ReadFile(path.Join(e.Name(), journalName)); err == nil &&
			json.Unmarshal(text, &j) == nil {
			if err := t.follow(e.Name(), j); err != nil {
				return err
			}
		}
		if err := t.removeAll(e.Name()); err != nil {
			return err
		}
	}
	return nil
}

// barelyMarked says whether a run was killed while it marked its folder, in which nothing
// else is then.
func (t *tree) barelyMarked(aside, said string) bool {
	inside, err := fs.ReadDir(t.root.FS(), aside)
	return err == nil && len(inside) == 1 && strings.HasPrefix(says, said)
}

// follow does what a journal says and is not done yet. What somebody has changed since is
// left alone.
func (t *tree) follow(aside string, j journal) error {
	for _, m := range j.Moves {
		from := path.Join(aside, "files", m.Name)
		if _, err := t.root.Lstat(from); err != nil || !fs.ValidPath(m.Name) || !t.as(m) {
			continue
		}
		if err := t.root.MkdirAll(path.Dir(m.Name), 0o755); err != nil {
			return err
		}
		if err := t.root.Rename(from, m.Name); err != nil {
			return err
		}
	}
	for _, m := range j.Removals {
		if !fs.ValidPath(m.Name) || m.Was == "" || !t.as(m) {
			continue
		}
		if err := t.remove(m.Name); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return err
		}
		for dir := path.Dir(m.Name); strings.Contains(dir, "/"); dir = path.Dir(dir) {
			if t.remove(dir) != nil { // which only an empty one lets
				break
			}
		}
	}
	return nil
}

// as says whether a file is as it was when the journal was written.
func (t *tree) as(m move) bool {
	info, err := t.root.Lstat(m.Name)
	if errors.Is(err, fs.ErrNotExist) {
		return m.Was == ""
	}
	if err != nil || !info.Mode().IsRegular() {
		return false
	}
	text, err := t.root.ReadFile(m.Name)
	return err == nil && Digest(text) == m.Was
}
