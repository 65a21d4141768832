#!/usr/bin/env python3
# Stand-ins with state for programs of macOS that do not run elsewhere. They refuse what the real
# ones refuse, as far as their manual pages and public reports say. State is below $MAC_STATE.
#
#   mac.py NAME ARGUMENT...
import json
import os
import plistlib
import re
import subprocess
import sys

state = os.environ["MAC_STATE"]


def fail(words, code=1):
    print(words, file=sys.stderr)
    sys.exit(code)


def load(path, default):
    try:
        with open(path, "rb") as f:
            return plistlib.load(f)
    except FileNotFoundError:
        return default


def store(path, value):
    os.makedirs(os.path.dirname(path), exist_ok=True)
    with open(path, "wb") as f:
        plistlib.dump(value, f, fmt=plistlib.FMT_BINARY)


# defaults(1)


def domain_file(host, domain):
    if domain in ("-g", "-globalDomain"):
        domain = "NSGlobalDomain"
    if "/" in domain:
        fail("a path in the place of a domain is not stood in for: " + domain)
    return os.path.join(state, "host" if host else "user", domain + ".plist")


def value_of(text):
    """A value without a type: a property list in XML, else the old form of texts."""
    if text.lstrip().startswith("<"):
        body = re.sub(r"^\s*<\?xml.*?\?>\s*(<!DOCTYPE.*?>)?", "", text, flags=re.S).strip()
        if not body.startswith("<plist"):
            body = "<plist>" + body + "</plist>"
        try:
            return plistlib.loads(body.encode())
        except Exception as e:
            fail("Could not parse: %s (%s)" % (text, e))
    if re.search(r"^\s*[({]|[\"\s;=]", text) and text != "":
        fail("Could not parse: %s. Try single-quoting it." % text)
    return text


def typed(args):
    kind = args[0]
    if kind == "-string":
        (text,) = args[1:]
        return text
    if kind in ("-int", "-integer"):
        (text,) = args[1:]
        return int(text, 0)
    if kind in ("-bool", "-boolean"):
        (text,) = args[1:]
        if text.lower() not in ("true", "false", "yes", "no", "1", "0"):
            fail("no truth value: " + text)
        return text.lower() in ("true", "yes", "1")
    if kind == "-array":
        return [value_of(a) for a in args[1:]]
    if kind.startswith("-"):
        fail("unknown type " + kind)
    if len(args) != 1:
        fail("Unexpected argument " + args[1])
    return value_of(kind)


def defaults(args):
    host = args[:1] == ["-currentHost"]
    if host:
        args = args[1:]
    verb, domain = args[0], args[1]
    path, rest = domain_file(host, domain), args[2:]
    values = load(path, {})
    if verb == "read":
        if not rest:
            print(json.dumps(values, default=str))
        elif rest[0] not in values:
            fail("The domain/default pair of (%s, %s) does not exist" % (domain, rest[0]))
        else:
            print(values[rest[0]])
    elif verb == "export":
        (to,) = rest
        if to == "-":
            sys.stdout.buffer.write(plistlib.dumps(values))
        else:
            store(to, values)
    elif verb == "import":
        (source,) = rest
        given = load(source, None) if source != "-" else plistlib.loads(sys.stdin.buffer.read())
        if not isinstance(given, dict):
            fail("no dictionary to import")
        # Each key that is given is replaced whole; the others stay.
        store(path, {**values, **given})
    elif verb == "delete":
        if rest and rest[0] not in values:
            fail("Domain (%s) not found." % domain)
        if rest:
            del values[rest[0]]
        else:
            values = {}
        store(path, values)
    elif verb == "write":
        key, rest = rest[0], rest[1:]
        if rest[0] == "-dict-add":
            had = values.get(key, {})
            if not isinstance(had, dict):
                fail("Value for key %s is not a dictionary; cannot append." % key)
            if len(rest[1:]) % 2 or len(rest) == 1:
                fail("Key and value expected")
            for k, v in zip(rest[1::2], rest[2::2]):
                had[k] = value_of(v)
            values[key] = had
        else:
            values[key] = typed(rest)
        store(path, values)
    else:
        fail("unknown verb " + verb)


# plutil(1)


def walk(value, keypath):
    names = [n.replace("\0", ".") for n in keypath.replace("\\.", "\0").split(".")]
    for n in names[:-1]:
        if not isinstance(value, dict) or n not in value:
            fail("No value at that key path: " + keypath)
        value = value[n]
    if not isinstance(value, dict) or names[-1] not in value:
        fail("No value at that key path: " + keypath)
    return value, names[-1]


def plutil(args):
    verb = args[0]
    if verb == "-extract":
        keypath, form, o, to, source = args[1:]
        if form != "xml1" or o != "-o":
            fail("not stood in for: " + " ".join(args))
        text = sys.stdin.buffer.read() if source == "-" else open(source, "rb").read()
        of, name = walk(plistlib.loads(text), keypath)
        out = plistlib.dumps(of[name])
        if to == "-":
            sys.stdout.buffer.write(out)
        else:
            open(to, "wb").write(out)
    elif verb == "-lint":
        (source,) = args[1:]
        load(source, None)
        print(source + ": OK")
    elif verb == "-remove":
        keypath, source = args[1:]
        whole = load(source, None)
        of, name = walk(whole, keypath)
        del of[name]
        store(source, whole)
    elif verb == "-convert":
        form, o, to, source = args[1:]
        if form != "xml1" or o != "-o":
            fail("not stood in for: " + " ".join(args))
        whole = load(source, None)
        with open(to, "wb") as f:
            plistlib.dump(whole, f)
    else:
        fail("not stood in for: " + verb)


# PlistBuddy(8)


def plist_buddy(args):
    c, command, target = args
    verb, _, source = command.partition(" ")
    if c != "-c" or verb != "Merge":
        fail("not stood in for: " + " ".join(args))
    whole, more = load(target, None), load(source, None)
    for k, v in more.items():
        if k in whole:
            print('Merge: Duplicate Entry Was Skipped: "%s"' % k)
        else:
            whole[k] = v
    with open(target, "wb") as f:
        plistlib.dump(whole, f)


# hidutil(1)


def hidutil(args):
    path = os.path.join(state, "hid.plist")
    held = load(path, {})
    if args[0] != "property":
        fail("not stood in for: " + args[0])
    options = dict(zip(args[1::2], args[2::2]))
    if len(args) % 2 == 0 or set(options) - {"--matching", "--set", "--get"}:
        fail("unknown option")
    match = ""
    if "--matching" in options:
        match = json.dumps(json.loads(options["--matching"]), sort_keys=True)
    if "--set" in options:
        for name, value in json.loads(options["--set"]).items():
            if os.environ.get("MAC_PLAIN_USER") and name == "UserKeyMapping":
                continue  # from 14.2 on, as is reported
            if match == "":  # for the event system: boards get it, too
                held = {m: {n: v for n, v in of.items() if n != name} for m, of in held.items()}
            held.setdefault(match, {})[name] = value
        store(path, held)
    if "--get" in options:
        print(json.dumps(held.get(match, {}).get(options["--get"])))


# launchctl(1)


def launchctl(args):
    path = os.path.join(state, "jobs.plist")
    jobs = load(path, {})
    if args[0] == "bootstrap":
        where, source = args[1:]
        job = load(source, None)
        if job is None or "Label" not in job:
            fail("Bootstrap failed: 5: Input/output error", 5)
        label = where + "/" + job["Label"]
        if label in jobs:
            fail("Bootstrap failed: 5: Input/output error", 5)
        jobs[label] = source
        store(path, jobs)
        if job.get("RunAtLoad"):
            # The stand-in for hidutil is found by the path of programs.
            subprocess.run([a.replace("/usr/bin/hidutil", "hidutil") for a in job["ProgramArguments"]], check=False)
    elif args[0] == "bootout":
        if args[1] not in jobs:
            fail("Boot-out failed: 3: No such process", 3)
        del jobs[args[1]]
        store(path, jobs)
    else:
        fail("not stood in for: " + args[0])


# What is only told to look again.


def told(args):
    with open(os.path.join(state, "told"), "a") as f:
        f.write(" ".join([os.path.basename(sys.argv[1])] + args) + "\n")


name = os.path.basename(sys.argv[1])
{"defaults": defaults, "plutil": plutil, "hidutil": hidutil, "launchctl": launchctl,
 "PlistBuddy": plist_buddy}.get(name, told)(sys.argv[2:])
