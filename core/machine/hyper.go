package machine

// HyperForm is how a machine can have one more modifier.
type HyperForm uint8

const (
	// RealHyper: Hyper is a modifier of its own.
	RealHyper HyperForm = iota
	// SeveralModifiers: the key holds several of the usual modifiers together, since the desktop
	// knows no Hyper (KDE's global shortcuts have no word for it) or the mapping asks for it.
	SeveralModifiers
	// NoHyper: no file can do it, since one key is mapped to one key there.
	NoHyper
	// GlobeHyper: the key is Globe, which a Mac's own shortcuts may have, and nothing else.
	GlobeHyper
)

// HyperForm is how the machine can have a Hyper.
func (m *Machine) HyperForm() HyperForm {
	if m.System != Linux || m.Session == Console {
		return NoHyper
	}
	d, _ := FindDesktop(m.Desktop)
	return d.Hyper
}
