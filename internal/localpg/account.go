package localpg

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"syscall"
)

// localUser is the account that the server runs under. The zero value is
// whoever runs the application.
type localUser struct {
	name     string
	uid, gid uint32
	other    bool // not whoever runs the application
}

// account finds the account to run the server under: one's own, or an
// unprivileged one for root.
func account() (localUser, error) {
	if os.Geteuid() != 0 {
		return localUser{name: "you"}, nil
	}
	for _, name := range []string{"postgres", "nobody"} {
		u, err := user.Lookup(name)
		if err != nil {
			continue
		}
		uid, err1 := strconv.ParseUint(u.Uid, 10, 32)
		gid, err2 := strconv.ParseUint(u.Gid, 10, 32)
		if err1 == nil && err2 == nil {
			return localUser{name: name, uid: uint32(uid), gid: uint32(gid), other: true}, nil
		}
	}
	return localUser{}, &Problem{What: "PostgreSQL does not run as root, and there is no user \"postgres\" to run it",
		Do: "Install Debian's package postgresql, or start as an ordinary user."}
}

// command prepares a program to run under the account, without the
// environment of whoever started the application.
func (u localUser) command(ctx context.Context, program string, args ...string) *exec.Cmd {
	cmd := exec.CommandContext(ctx, program, args...)
	cmd.Env = []string{"PATH=/usr/bin:/bin", "LC_ALL=C.UTF-8"}
	cmd.SysProcAttr = &syscall.SysProcAttr{}
	if u.other {
		cmd.SysProcAttr.Credential = &syscall.Credential{Uid: u.uid, Gid: u.gid}
	}
	return cmd
}

// own hands a file to the account.
func (u localUser) own(path string) error {
	if !u.other {
		return nil
	}
	return os.Chown(path, int(u.uid), int(u.gid))
}

// Place returns the folder for a cluster that belongs to a folder of the
// application's: inside it, unless the account that runs the server cannot
// enter it (root's checkout in /root, say). Then it is one under /var/lib,
// named after the inside one, and a link stands in its place; moved is true.
func Place(inside string) (dir string, moved bool, err error) {
	inside, err = filepath.Abs(inside)
	if err != nil {
		return "", false, err
	}
	who, err := account()
	if err != nil {
		return "", false, err
	}
	parent := filepath.Dir(inside)
	if err := os.MkdirAll(parent, 0o755); err != nil {
		return "", false, diskProblem("The folder "+parent+" cannot be made", err)
	}
	if !who.other || who.command(context.Background(), "/usr/bin/test", "-x", parent).Run() == nil {
		return inside, false, nil
	}
	sum := sha256.Sum256([]byte(inside))
	dir = filepath.Join("/var/lib/ninecoins", hex.EncodeToString(sum[:6]))
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return "", false, diskProblem("The folder "+dir+" cannot be made", err)
	}
	if _, err := os.Lstat(inside); os.IsNotExist(err) {
		if err := os.Symlink(dir, inside); err != nil {
			return "", false, diskProblem("The link "+inside+" cannot be made", err)
		}
	}
	return dir, true, nil
}

// binaries finds the programs of the newest PostgreSQL installed, or of the
// version that made the data.
func binaries(data string) (string, error) {
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/initdb")
	slices.SortFunc(found, func(a, b string) int { return version(b) - version(a) })
	if len(found) == 0 {
		return "", &Problem{What: "PostgreSQL is not installed", Do: "Install it with: apt-get install postgresql"}
	}
	made, err := os.ReadFile(filepath.Join(data, "PG_VERSION"))
	if err != nil {
		return filepath.Dir(found[0]), nil
	}
	want := strings.TrimSpace(string(made))
	for _, f := range found {
		if strconv.Itoa(version(f)) == want {
			return filepath.Dir(f), nil
		}
	}
	return "", &Problem{What: fmt.Sprintf("The data in %s was made by PostgreSQL %s, which is not installed", data, want),
		Do: fmt.Sprintf("Install it with: apt-get install postgresql-%s, or begin anew with --fresh.", want)}
}

func version(initdb string) int {
	v, _ := strconv.Atoi(filepath.Base(filepath.Dir(filepath.Dir(initdb))))
	return v
}
