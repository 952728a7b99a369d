package answers

import (
	"slices"
	"strings"

	"nowthen/core/job"
)

// kinds of work by the programs that do nothing else: those of the systems, and free ones that many of them bring.
var kinds = map[string]job.Busy{
	// Windows
	"tiworker": job.BusyUpdate, "trustedinstaller": job.BusyUpdate, "mousocoreworker": job.BusyUpdate, "usoclient": job.BusyUpdate, "wuauclt": job.BusyUpdate, "compattelrunner": job.BusyUpdate,
	"searchindexer": job.BusyIndexing, "searchprotocolhost": job.BusyIndexing, "searchfilterhost": job.BusyIndexing,
	"msmpeng": job.BusyScan, "mpcmdrun": job.BusyScan, "wbengine": job.BusyBackup, "sdclt": job.BusyBackup,
	// Linux
	"packagekitd": job.BusyUpdate, "apt": job.BusyUpdate, "apt-get": job.BusyUpdate, "dpkg": job.BusyUpdate, "unattended-upgr": job.BusyUpdate, "dnf": job.BusyUpdate, "snapd": job.BusyUpdate,
	"tracker-miner-f": job.BusyIndexing, "tracker-miner-fs-3": job.BusyIndexing, "localsearch-3": job.BusyIndexing, "baloo_file": job.BusyIndexing, "baloo_file_extractor": job.BusyIndexing, "updatedb": job.BusyIndexing,
	"clamscan": job.BusyScan, "clamd": job.BusyScan, "wget": job.BusyDownload,
	// macOS
	"softwareupdated": job.BusyUpdate, "installd": job.BusyUpdate, "mds": job.BusyIndexing, "mds_stores": job.BusyIndexing, "mdworker": job.BusyIndexing, "mdworker_shared": job.BusyIndexing, "mdbulkimport": job.BusyIndexing,
	"xprotectservice": job.BusyScan, "backupd": job.BusyBackup,
}

// KindOfWork is what a program does where it is known to do nothing else, as a job's conditions
// have it; "" of all others.
func KindOfWork(program string) job.Busy {
	name := strings.ToLower(program)
	return kinds[strings.TrimSuffix(name, ".exe")]
}

// Busy are the kinds of work that are known of the programs that use a computer most, in order; nil where there is none
// whose kind is known: what a person's own programs do is for that person to say, and the loads tell how much it is.
func Busy(programs []string) []job.Busy {
	var found []job.Busy
	for _, p := range programs {
		if kind := KindOfWork(p); kind != "" && !slices.Contains(found, kind) {
			found = append(found, kind)
		}
	}
	slices.Sort(found)
	return found
}
