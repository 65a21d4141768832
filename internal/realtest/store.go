package realtest

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"

	"leitstand/core/change"
)

// Store is the files of a home, the settings of dconf and the running programs of a session,
// as changes are carried out on them.
type Store struct {
	Home string
	Env  []string // of the session
}

// Store is that of a session's home.
func (s *Session) Store(home string) Store { return Store{home, append(os.Environ(), s.env...)} }

func (s Store) path(path string) string {
	if rest, ok := strings.CutPrefix(path, "~/"); ok {
		return filepath.Join(s.Home, rest)
	}
	return path
}

// ReadFile reads a file.
func (s Store) ReadFile(path string) ([]byte, error) { return os.ReadFile(s.path(path)) }

// WriteFile writes a file, and its folder.
func (s Store) WriteFile(path string, data []byte) error {
	if err := os.MkdirAll(filepath.Dir(s.path(path)), 0o755); err != nil {
		return err
	}
	return os.WriteFile(s.path(path), data, 0o644)
}

// RemoveFile removes a file.
func (s Store) RemoveFile(path string) error { return os.Remove(s.path(path)) }

// Get reads a value of dconf.
func (s Store) Get(_, key string) (change.Value, error) {
	out, err := s.run("dconf", "read", key)
	if text := strings.TrimSuffix(out, "\n"); err == nil && text != "" {
		return change.ParseGVariant(text), nil
	}
	return nil, err
}

// Set writes a value of dconf.
func (s Store) Set(_, key string, v change.Value) (err error) {
	if v == nil {
		_, err = s.run("dconf", "reset", key)
	} else {
		_, err = s.run("dconf", "write", key, change.GVariant(v))
	}
	return err
}

// Call runs a program.
func (s Store) Call(words []string) error {
	_, err := s.run(words[0], words[1:]...)
	return err
}

func (s Store) run(program string, arguments ...string) (string, error) {
	cmd := exec.Command(program, arguments...)
	cmd.Env = s.Env
	var errs strings.Builder
	cmd.Stderr = &errs
	out, err := cmd.Output()
	if err != nil {
		err = fmt.Errorf("%s: %w: %s", program, err, &errs)
	}
	return string(out), err
}
