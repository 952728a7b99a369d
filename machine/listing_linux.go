package machine

import (
	"errors"
	"os"
)

// ForgetListing drops what the kernel remembers of names and attributes, of all file
// systems (proc_sys_vm(5)); the files' own bytes stay. It takes the rights of an
// administrator.
func (t *tree) ForgetListing() error {
	err := os.WriteFile("/proc/sys/vm/drop_caches", []byte("2"), 0)
	if err != nil {
		return errors.New("that takes the rights of an administrator")
	}
	return nil
}
