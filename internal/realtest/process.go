package realtest

import (
	"bytes"
	"sync"
)

// lockedBuffer collects a process's output while the test reads it.
type lockedBuffer struct {
	mu sync.Mutex
	b  bytes.Buffer
}

func (l *lockedBuffer) Write(p []byte) (int, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.b.Write(p)
}

// Len is how much was written so far.
func (l *lockedBuffer) Len() int {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.b.Len()
}

// From is what was written since the given length.
func (l *lockedBuffer) From(n int) string {
	l.mu.Lock()
	defer l.mu.Unlock()
	return string(l.b.Bytes()[n:])
}
