package host

import (
	"io/fs"
	"path"
	"strings"
)

// Commit is the commit that is checked out in the git repository that a folder is in, "" if it is in none, by the
// beginning of its name. Root is the file system, and the folder a path in it. (Git's documentation of the layout of a
// repository.)
func Commit(root fs.FS, dir string) string {
	for {
		if head, err := fs.ReadFile(root, path.Join(dir, ".git/HEAD")); err == nil {
			return short12(resolve(root, path.Join(dir, ".git"), strings.TrimSpace(string(head))))
		}
		if dir == "." || dir == "" {
			return ""
		}
		dir = path.Dir(dir)
	}
}

// resolve is the commit of a head, or of the branch that it names.
func resolve(root fs.FS, git, head string) string {
	branch, ok := strings.CutPrefix(head, "ref: ")
	if !ok {
		return head
	}
	if text, err := fs.ReadFile(root, path.Join(git, branch)); err == nil {
		return strings.TrimSpace(string(text))
	}
	text, _ := fs.ReadFile(root, path.Join(git, "packed-refs")) // none is a branch without a commit
	for line := range strings.Lines(string(text)) {
		if commit, name, ok := strings.Cut(strings.TrimSpace(line), " "); ok && name == branch {
			return commit
		}
	}
	return ""
}

func short12(commit string) string { return commit[:min(12, len(commit))] }
