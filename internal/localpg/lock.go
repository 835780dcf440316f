package localpg

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"syscall"
)

// Lock keeps a folder to one run of the application. The system lets go of it
// when the run ends, however it ends.
type Lock struct{ file *os.File }

// Take locks a folder. Where another run holds it, the [*Problem] says which.
func Take(dir string) (*Lock, error) {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return nil, diskProblem("The folder "+dir+" cannot be made", err)
	}
	f, err := os.OpenFile(filepath.Join(dir, "lock"), os.O_RDWR|os.O_CREATE, 0o644)
	if err != nil {
		return nil, diskProblem("The folder "+dir+" cannot be locked", err)
	}
	if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		who, _ := os.ReadFile(f.Name())
		f.Close()
		if errors.Is(err, syscall.EWOULDBLOCK) {
			return nil, &Problem{What: "Nine Coins is running from this folder already (" + strings.TrimSpace(string(who)) + ")",
				Do: "Use that one, or end it with Ctrl+C where it was started."}
		}
		return nil, diskProblem("The folder "+dir+" cannot be locked", err)
	}
	l := &Lock{f}
	l.Note("")
	return l, nil
}

// Note writes down what the run is, for whoever finds the folder locked.
func (l *Lock) Note(what string) {
	_ = l.file.Truncate(0)
	_, _ = l.file.WriteAt([]byte(strings.TrimSpace(fmt.Sprintf("process %d %s", os.Getpid(), what))+"\n"), 0)
}

// Free lets go of the folder.
func (l *Lock) Free() { _ = l.file.Close() }

// Clear removes the cluster in a folder, for a new beginning. The caller holds
// the folder's [Lock].
func Clear(dir string) error {
	if err := (&Cluster{dir: dir}).endLeftover(); err != nil {
		return err
	}
	for _, part := range []string{"data", "password", "server.log"} {
		if err := os.RemoveAll(filepath.Join(dir, part)); err != nil {
			return diskProblem("The old database in "+dir+" cannot be removed", err)
		}
	}
	return nil
}
