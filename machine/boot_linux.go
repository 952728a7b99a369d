package machine

// bootID is what the kernel drew for this start.
func bootID() string { return root("/").read("/proc/sys/kernel/random/boot_id") }
