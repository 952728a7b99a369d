package machine

// bootID is the kernel's random id of this start.
func bootID() string { return root("/").read("/proc/sys/kernel/random/boot_id") }
