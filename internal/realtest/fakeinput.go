package realtest

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"io"
	"net"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// fakeInput presses keys and buttons in a compositor of KDE by its protocol for that.
//
// Source: the Wayland wire protocol; fake-input.xml of plasma-wayland-protocols.
type fakeInput struct{ conn net.Conn }

// The objects of our connection, and the requests that we make.
const (
	displayObject, registryObject, callbackObject, inputObject = 1, 2, 3, 4

	displaySync, displayGetRegistry          = 0, 1
	registryBind                             = 0
	inputAuthenticate, inputButton, inputKey = 0, 2, 10
	registryGlobal, callbackDone             = 0, 0

	inputInterface, inputVersion = "org_kde_kwin_fake_input", 4
)

// patience is how long a compositor may take to answer.
const patience = 30 * time.Second

// newFakeInput connects to the compositor at a socket.
func newFakeInput(t testing.TB, socket string) *fakeInput {
	t.Helper()
	conn, err := net.Dial("unix", socket)
	require.NoError(t, err)
	t.Cleanup(func() { conn.Close() })
	require.NoError(t, conn.SetReadDeadline(time.Now().Add(patience)))
	f := &fakeInput{conn}
	require.NoError(t, f.request(displayObject, displayGetRegistry, uint32(registryObject)))
	require.NoError(t, f.request(displayObject, displaySync, uint32(callbackObject)))
	name := uint32(0)
	for name == 0 {
		object, opcode, body, err := f.event()
		require.NoError(t, err)
		switch {
		case object == registryObject && opcode == registryGlobal:
			number, length := binary.NativeEndian.Uint32(body), binary.NativeEndian.Uint32(body[4:])
			if string(body[8:8+length-1]) == inputInterface {
				name = number
			}
		case object == callbackObject && opcode == callbackDone:
			t.Fatalf("the compositor has no %s", inputInterface)
		}
	}
	require.NoError(t, conn.SetReadDeadline(time.Time{}))
	go func() { _, _ = io.Copy(io.Discard, conn) }()
	require.NoError(
		t, f.request(registryObject, registryBind, name, inputInterface, uint32(inputVersion), uint32(inputObject)),
	)
	require.NoError(t, f.request(inputObject, inputAuthenticate, "test", "keys are pressed"))
	return f
}

// press presses or lets go a key or a button of a mouse, by its event code.
func (f *fakeInput) press(evdev int, down bool) error {
	state := uint32(0)
	if down {
		state = 1
	}
	if _, ok := buttons[evdev]; ok {
		return f.request(inputObject, inputButton, uint32(evdev), state)
	}
	return f.request(inputObject, inputKey, uint32(evdev), state)
}

// request sends a request with arguments that are numbers or strings.
func (f *fakeInput) request(object uint32, opcode uint16, arguments ...any) error {
	var body bytes.Buffer
	number := func(n uint32) { body.Write(binary.NativeEndian.AppendUint32(nil, n)) }
	for _, a := range arguments {
		switch a := a.(type) {
		case uint32:
			number(a)
		case string:
			number(uint32(len(a) + 1))
			body.WriteString(a)
			body.Write(make([]byte, 4-len(a)%4)) // at least the NUL
		default:
			return fmt.Errorf("%T is no argument", a)
		}
	}
	head := binary.NativeEndian.AppendUint32(nil, object)
	head = binary.NativeEndian.AppendUint32(head, uint32(8+body.Len())<<16|uint32(opcode))
	if err := f.conn.SetWriteDeadline(time.Now().Add(patience)); err != nil {
		return err
	}
	_, err := f.conn.Write(append(head, body.Bytes()...))
	return err
}

// event reads what the compositor says.
func (f *fakeInput) event() (object uint32, opcode uint16, body []byte, err error) {
	var head [8]byte
	if _, err := io.ReadFull(f.conn, head[:]); err != nil {
		return 0, 0, nil, err
	}
	word := binary.NativeEndian.Uint32(head[4:])
	body = make([]byte, word>>16-8)
	_, err = io.ReadFull(f.conn, body)
	return binary.NativeEndian.Uint32(head[:4]), uint16(word), body, err
}
