package words

// RestartNow is what a technician is to do whose restart of a computer is timed by the probe on it.
const RestartNow = "Restart the computer now; the probe times it."

// Restarting means that a computer is away for a restart that is timed.
const Restarting = "The computer restarts; the probe reports back by itself."

// FirstSign says where a restart that the probe timed ended.
func FirstSign(beforeSignIn bool) string {
	if beforeSignIn {
		return "Timed to the first sign of the system’s services, before anyone signs in."
	}
	return "Timed to the first sign of the desktop; a password that was typed on the way counts."
}
