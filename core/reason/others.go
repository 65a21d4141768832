package reason

// What holds for Windows, macOS, iPadOS and ChromeOS.
var (
	NoScanCodeToMap = system(
		"no-scan-code-to-map", "{key} has no scan code that Windows can map", "Keyboard scan code specification",
	)
	NoScanCodeToSend = system(
		"no-scan-code-to-send", "{key} has no scan code that Windows can send", "Keyboard scan code specification",
	)
	DriverTakes = system(
		"driver-takes",
		"the keyboard's driver takes {key} before the scancode map is looked at",
		"the keyboard class driver",
	)
	WindowsNoHyper = system(
		"windows-no-hyper", "Windows maps one key to one key and has no Hyper", "the value Scancode Map",
	)
	MapForAllBoards = system(
		"map-for-all-boards", "the scancode map holds for all boards alike", "the value Scancode Map",
	)
	MediaKeysPast = system(
		"media-keys-past",
		"a service of Windows takes the media keys of USB boards past the scancode map",
		"the driver hidserv",
	)
	LibraryNotAsked = fromMapping(
		"library-not-asked",
		"a keyboard layout library could have it, which machine {machine} does not ask for (layout_library = true)",
	)
	FilterNotAsked = fromMapping(
		"filter-not-asked",
		"the keyboard filter of managed editions could block it, which machine {machine} does not ask for (keyboard_filter)",
	)
	WindowsOwnLayout = system(
		"windows-own-layout",
		"under a layout beside yours, with XKB's dead keys and Unicode's accents: system_layouts names no library",
		"kbd.h",
	)
	WindowsLayerCharacters = system(
		"windows-layer-characters",
		"a layer of characters only, in which what CapsLock does is not certain",
		"kbd.h: MODIFIERS",
	)
	WindowsLayoutBeside = system("windows-layout-beside", "under a layout that is added beside yours", "kbd.h")
	WindowsDeadAlone    = system(
		"windows-dead-alone", "it does not go together with an accent before or behind it", "kbd.h: DEADKEY",
	)
	WindowsNoCapital = system(
		"windows-no-capital", "CapsLock makes no capital of {key} then", "kbd.h: CAPLOK",
	)
	WordsRoom      = fromMapping("words-room", "there is room for {count} beginnings of abbreviations, which others have")
	WindowsDeadOne = system(
		"windows-dead-one", "what follows a dead key gives one unit of text", "kbd.h: DEADKEY",
	)
	WindowsUnitsBesideDead = system(
		"windows-units-beside-dead", "several units do not go together with a layer for one press", "kbd.h: LIGATURE",
	)
	WindowsDeadBase = system(
		"windows-dead-base", "{key} types no character that a dead key could stand before", "kbd.h: DEADKEY",
	)
	WindowsDeadAlike = system(
		"windows-dead-alike", `{key} types "{character}" too, and a dead key goes by what the next key types`,
		"kbd.h: DEADKEY",
	)
	LayoutKeepsScanCode = system(
		"layout-keeps-scan-code", "programs that look at scan codes (games, remote desktops) still see the old key", "kbd.h",
	)
	PauseHoldsNothing = system(
		"pause-holds-nothing", "a board sends Pause as pressed and let go at once, so it cannot be held as {key}",
		"USB HID to PS/2 Scan Code Translation Table",
	)
	WindowsNoAltGr = system(
		"windows-no-alt-gr", "the right Alt key is Alt under layout {layout}, which has no AltGr", "kbd.h: KLLF_ALTGR",
	)
	WindowsLayerKeyTypesNothing = system(
		"windows-layer-key-types-nothing",
		"{key} holds a layer, which makes it a modifier, and a modifier types nothing with others",
		"kbd.h: MODIFIERS, VK_TO_WCHARS",
	)
	WindowsDeadKeypad = system(
		"windows-dead-keypad",
		"a layer for one press goes by characters there, so the keypad's key with the character of {key} does the same",
		"kbd.h: DEADKEY",
	)
	WindowsDecimalUnknown = system(
		"windows-decimal-unknown",
		"what the decimal key of the keypad types under {layout} is not on record: a full stop is taken",
		"kbd.h: VK_DECIMAL",
	)
	WindowsOwnAltGr = system(
		"windows-own-alt-gr",
		"it is Ctrl and Alt together; the right Alt types as before, by a modifier of its own, and Ctrl+Alt types nothing; programs that ask which keys type a character (VkKeyScan) miss those of the right Alt",
		"kbd.h: KLLF_ALTGR, MODIFIERS",
	)
	WindowsAltGrHyper = system(
		"windows-alt-gr-hyper",
		"it is AltGr, which is Ctrl and Alt together; so the right Alt sets off the same hotkeys",
		"Windows: AltGr",
	)
	WindowsRepeatRange = system(
		"windows-repeat-range", "keys repeat there after 1 to {ms} ms", "FILTERKEYS",
	)
	WholeMilliseconds = system("whole-milliseconds", "in whole milliseconds: every {ms} ms", "FILTERKEYS")
	GameBarOff        = system("game-bar-off", "the game bar is off as a whole, for all users", "AllowGameDVR")
	LockingOff        = system(
		"locking-off", "the screen can no longer be locked at all, and it takes an administrator's window of your own account",
		"DisableLockWorkstation",
	)
	TerminalOnly    = system("terminal-only", "in Windows Terminal only", "Windows Terminal: custom actions")
	LineEditorOnly  = system("line-editor-only", "in the command line of PowerShell only", "Set-PSReadLineKeyHandler")
	LineEditorFirst = system("line-editor-first", "{chord} alone does nothing there then", "Set-PSReadLineKeyHandler")
	AppKeyFront     = system(
		"app-key-front", "the program in front is given the key first", "WM_APPCOMMAND",
	)
	AppKeyQuestion = system(
		"app-key-question", "such a key cannot ask before it starts something", "application keys in the shell",
	)
	AppKeyArguments = system(
		"app-key-arguments", "{key} starts a program without arguments only", "application keys in the shell",
	)
	AppKeyPath = system(
		"app-key-path", `the text of such a key is a path as it stands, which "{program}" is not`,
		"application keys in the shell",
	)
	LinkNoQuestion = system("link-no-question", "a shortcut cannot ask before it starts something", "MS-SHLLINK")
	LinkModifiers  = system(
		"link-modifiers", "a shortcut's hotkey has only Ctrl, Alt and Shift, not {modifiers}", "MS-SHLLINK",
	)
	LinkKeys = system(
		"link-keys",
		"a shortcut's hotkey is a letter, digit, sign, function key, arrow or one beside those, not {key} under layout {layout}",
		"MS-SHLLINK",
	)
	LinkTypes = system(
		"link-types", "this chord types a character, which the hotkey would take", "AltGr is Ctrl and Alt",
	)
	LinkPathLong = system(
		"link-path-long",
		"a shortcut holds a path of {characters} characters at most",
		"MS-SHLLINK",
	)
	LinkArgumentsLong = system(
		"link-arguments-long", "a shortcut holds arguments of {characters} characters at most", "MS-SHLLINK",
	)
	LinkAddressBlank = system(
		"link-address-blank", "a web address cannot hold spaces or control characters", "internet shortcuts",
	)
	LinkControl = system("link-control", "a shortcut cannot hold control characters", "MS-SHLLINK")
	LinkDelay   = system(
		"link-delay",
		"it starts at times after some seconds only",
		"Explorer asks all windows first",
	)
	LinkF12           = system("link-f12", "F12 by itself is the debugger's", "RegisterHotKey")
	LinkWantsModifier = system(
		"link-wants-modifier", "a shortcut's hotkey on this key wants Ctrl or Alt", "MS-SHLLINK",
	)
	LinkAltGr = system(
		"link-alt-gr",
		`AltGr is Ctrl+Alt to Windows, so "{character}" can no longer be typed with AltGr`,
		"Windows: AltGr",
	)
	LinkConsole = system(
		"link-console",
		"a console window flashes by, unless the program is named with its whole path",
		"the command interpreter",
	)
	LinkWholePath = system(
		"link-whole-path",
		`a shortcut needs the program's whole path, or its bare name; "{program}" is neither`,
		"MS-SHLLINK",
	)
	LinkInterpreter = system(
		"link-interpreter",
		`"{program}" goes through the command interpreter, which would change an argument; name the program with its whole path`,
		"the command interpreter",
	)
	LinkMayRaise = system(
		"link-may-raise",
		"if the program is open already, its window may come forward instead",
		"MS-SHLLINK: the flags of a link",
	)
	MacNoButtons    = system("mac-no-buttons", "macOS maps keys of boards, and no buttons of a mouse", "TN2450")
	MacNoHyper      = system("mac-no-hyper", "macOS maps one key to one key and has no Hyper", "TN2450")
	MacPluggedLater = system(
		"mac-plugged-later", "up to a minute passes after this board is plugged in", "launchd.plist(5): StartInterval",
	)
	MacRepeatTicks = system(
		"mac-repeat-ticks",
		"the system may take its own setting of {ms} ms at log-in, until the job runs again",
		"defaults: KeyRepeat",
	)
	MacOthersToo = system(
		"mac-others-too", "another external board that does not say that it is external has it, too",
		"hidutil(1): --matching",
	)
	MacPlainUser = system(
		"mac-plain-user", "from macOS 14.2 on, the system may refuse it to who is no administrator",
		"reported of hidutil(1)",
	)
	MacMoved = system(
		"mac-moved", "{chord}, which the system has for it, no longer does it", "its settings: one chord each",
	)
	MacSpaces  = system("mac-spaces", "if there are as many spaces", "its settings")
	ChordFreed = system(
		"chord-freed",
		"the program in front gets the chord then",
		"its settings; DisabledHotkeys",
	)
	MacNoKeycode      = system("mac-no-keycode", "{key} has no virtual keycode", "HIToolbox Events.h")
	MacChordModifiers = system(
		"mac-chord-modifiers",
		"a chord of macOS has Ctrl, Alt, Shift, Meta and Fn, not {modifiers}",
		"HIToolbox Events.h",
	)
	MacSameKey       = system("mac-same-key", "{other} is the same key as {key} to macOS", "IOHIDFamily")
	MacFnKey         = system("mac-fn-key", "Fn makes another key of {key}", "Mac keyboard shortcuts")
	MacWantsModifier = system(
		"mac-wants-modifier", "{chord} types, and macOS takes it as a shortcut only with Ctrl, Alt, Meta or Fn",
		"its settings",
	)
	MacMenuModifiers = system(
		"mac-menu-modifiers",
		"a chord of a menu has Ctrl, Alt, Shift and Meta, not {modifiers}",
		"AppKit: key equivalents",
	)
	MacNoCharacter = system(
		"mac-no-character",
		"menus go by characters, and {key} alone types no character of its own",
		"AppKit: key equivalents",
	)
	MacShiftedSign = system(
		"mac-shifted-sign", "menus go by characters, and which one {chord} is with Shift is not certain",
		"AppKit: key equivalents",
	)
	MacTextsUncertain = system(
		"mac-texts-uncertain", "it is uncertain whether the system's own list of text replacements takes its place",
		"public reports, of both",
	)
	WindowsTick = system(
		"windows-tick", "its timers count the ticks of the clock, 64 a second: {ms} ms become about {ticks}",
		"Microsoft: timer resolution; public reports",
	)
	MacMenuItem = system(
		"mac-menu-item",
		"in programs that have {item} in their menus, under its usual title, once they are started anew",
		"AppKit: NSUserKeyEquivalents",
	)
	MacMenuMoved = system(
		"mac-menu-moved", "{chord} does it no longer there", "AppKit: an item has one key equivalent",
	)
	MacService = system(
		"mac-service", "by the Services menu of the program in front, which not all have, and slower than a hotkey",
		"Services Implementation Guide",
	)
	MacOwned = system(
		"mac-owned", "{chord} is the system's own: it {does}; override = true has it", "its settings",
	)
	MacProgramsFirst = system(
		"mac-programs-first",
		"not where the program in front has the chord itself (it {does})",
		"Services Implementation Guide",
	)
	MacBareName = system(
		"mac-bare-name", "{program} is found in the system's own folders only; name its whole path elsewhere",
		"the path of programs in Automator",
	)
	MacTextOnly = system(
		"mac-text-only",
		"while a text is edited with Apple's text system: not in terminals, nor in many programs that exist for several systems",
		"Text System Defaults and Key Bindings",
	)
	MacWouldEndTyping = system(
		"mac-would-end-typing", "{chord} types, and would not any more", "Text System Defaults and Key Bindings",
	)
	MacFunctionKeys = system(
		"mac-function-keys",
		"with Fn held on a board of Apple's, unless the settings have function keys as such",
		"its settings",
	)
	MacMenusFirst = system(
		"mac-menus-first", "not where a menu has the chord", "Text System Defaults and Key Bindings",
	)
	MacNoBundle = system(
		"mac-no-bundle",
		"programs are told apart here by their bundle identifiers, which {program} is none",
		"defaults(1)",
	)
	MacMenuFreed = system(
		"mac-menu-freed", "only in programs that have {item} in their menus", "AppKit: NSUserKeyEquivalents",
	)
	MacLayerIsOption = system(
		"mac-layer-is-option",
		"the layer is the state of the Option keys: its other keys type what they do with Option",
		"Apple Technical Note TN2056: modifiers of a layout",
	)
	MacLayerIsCaps = system(
		"mac-layer-is-caps", "the layer is the state of CapsLock, of characters only: its lamp is on",
		"Apple Technical Note TN2056: modifiers of a layout",
	)
	MacLayerIsDead = system(
		"mac-layer-is-dead", "a dead key, of characters only: a key with no meaning in the layer types its own",
		"Apple Technical Note TN2056: actions",
	)
	MacOwnLayout = system(
		"mac-own-layout", "under a layout that is chosen in the input menu; accents join there as Unicode has it",
		"Apple Technical Note TN2056",
	)
	MacCharacterLost = system(
		"mac-character-lost", "{chord} types {character} no longer there", "Apple Technical Note TN2056",
	)
	LayoutKeyTypesNothing = system(
		"layout-key-types-nothing", "{key} types nothing under layout {layout}, and a layout knows keys by what they type",
		"Apple Technical Note TN2056; kbd.h",
	)
	LayoutTextLong = system(
		"layout-text-long",
		"a key of a layout types {units} units of text at most",
		"Apple Technical Note TN2056: maxout; kbd.h: LIGATURE",
	)
	LayoutControl = system(
		"layout-control", "what a layout types is text, no control characters", "Apple Technical Note TN2056; kbd.h",
	)
	OnceKeyTypes = system(
		"once-key-types", "a layer for one press is behind a dead key, which has to be a key that types, not {key}",
		"Apple Technical Note TN2056; kbd.h: DEADKEY",
	)
	ComposeKeyTypes = system(
		"compose-key-types",
		"a Compose key of a layout is one that types, which {key} is not",
		"kbd.h; Apple Technical Note TN2056",
	)
	LayoutComposes = system(
		"layout-composes", "a dead key, behind which the mapping's abbreviations are typed and no other sequences",
		"Apple Technical Note TN2056: actions; kbd.h: DEADKEY",
	)
	AfterComposeKey = system(
		"after-compose-key", "typed after the Compose key, and at once",
		"Apple Technical Note TN2056: actions; kbd.h: DEADKEY",
	)
	MacGlobeHyper = system(
		"mac-globe-hyper", "it is Globe, which the system's own shortcuts have and programs do not", "TN2450",
	)
	MacProfile = system(
		"mac-profile",
		"by a profile, which holds what users have beside it in the same list, too",
		"Configuration Profile Reference",
	)
	MacProfileText = system(
		"mac-profile-text", "a profile is XML, which holds no path of menus", "XML 1.0: characters",
	)
	MacProfileWhole = system(
		"mac-profile-whole",
		"a profile leaves no place for what is for this user only, such as {press}",
		"Configuration Profile Reference",
	)
	MacChordTaken  = fromMapping("mac-chord-taken", "{chord}, which it is here, has another meaning")
	NoHotkeysThere = system(
		"no-hotkeys-there", "{system} has no hotkeys for programs of one's choice", "its settings",
	)
	ShortcutsModifiers = system(
		"shortcuts-modifiers",
		"the Shortcuts app records no {modifiers}",
		"the Shortcuts app",
	)
	ShortcutsWantModifier = system(
		"shortcuts-want-modifier", "the Shortcuts app wants a modifier with this key", "the Shortcuts app",
	)
	ByShortcutsApp    = system("by-shortcuts-app", "a keyboard shortcut in the Shortcuts app", "the Shortcuts app")
	ByTextReplacement = system(
		"by-text-replacement",
		"a text replacement of the system's own, in the panel, and once a space or a sign follows",
		"Replace text and punctuation in documents",
	)
	ByFullKeyboardAccess = system(
		"by-full-keyboard-access", "by Full Keyboard Access, which gives Tab and the arrow keys other meanings as well",
		"Use Full Keyboard Access on iPad",
	)
	ByKeyShortcuts = system(
		"by-key-shortcuts",
		"a further chord in the list of keyboard shortcuts",
		"Chromebook keyboard shortcuts",
	)
	ByShelf = system(
		"by-shelf",
		"{chord} starts what is pinned at place {place} of the shelf",
		"Chromebook keyboard shortcuts",
	)
	ByMousePanel     = system("by-mouse-panel", "the panel of the mouse, for one mouse at a time", "its settings")
	MousePanelChords = system(
		"mouse-panel-chords", "the panel of the mouse has {key} give a key or a chord only", "its settings",
	)
	ShortcutsOfKeys = system(
		"shortcuts-of-keys", "keyboard shortcuts are of keys, and {key} is a button of a mouse", "its settings",
	)
	BySlider         = system("by-slider", "a slider in the panel, in steps of its own", "its settings")
	NoCommandsThere  = system("no-commands-there", "{system} runs no commands", "its rules for programs")
	ByPanel          = system("by-panel", "the panel of modifier keys", "its settings")
	ByPanelBothSides = system(
		"by-panel-both-sides", "the panel of modifier keys, where left and right are one", "its settings",
	)
	PanelModifiersOnly = system(
		"panel-modifiers-only", "{system} can change modifier keys only, and {key} is none", "its settings",
	)
	PanelNotThat   = system("panel-not-that", "{system} cannot make a modifier key act as {key}", "its settings")
	LayoutNotKnown = unwritten("layout-not-known", "what keys type under layout {layout} of this system")
	WayHere        = unwritten("way-here", "a way to {what} here")
	ThisSetting    = unwritten("this-setting", "this setting")
)
