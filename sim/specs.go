package sim

import "nowthen/core/job"

// zones are n zones whose rates fall evenly from the outer to the inner one.
func zones(outer, inner float64, n int) []float64 {
	list := make([]float64, n)
	for i := range list {
		list[i] = outer + (inner-outer)*float64(i)/float64(n-1)
	}
	return list
}

// specs are the simulated drives. All names are made up.
var specs = []Spec{
	{
		Name: "worn-disk", Title: "an old hard disk, worn",
		Label: job.Drive{DriveLabel: job.DriveLabel{Kind: job.HDD, Maker: "Halden", Model: "Turnstone 640",
			CapacityBytes: 640_135_028_736, RPM: 5400, Interface: "SATA 3 Gb/s",
			Rated: &job.Rated{ReadMBs: 110, WriteMBs: 105, MaxTempC: 60}}, Simulated: "worn-disk"},
		Attached: job.Attached{Port: "sata", LinkMBs: 300, CapableMBs: 600},
		FillPct:  61, TempC: 38, link: 300, bridge: bridgeSpec{depth: 32, overhead: 70e-6},
		disk: &diskSpec{rpm: 5400, zones: zones(112, 52, 16), shortSeek: 0.0015, stroke: 0.021, overhead: 0.0006,
			stumble: 0.03, rereads: 0.04, buffer: 8 << 20},
		heat: heatSpec{perGB: 0.15, coolS: 900},
	},
	{
		Name: "fresh-ssd", Title: "a new SATA SSD",
		Label: job.Drive{DriveLabel: job.DriveLabel{Kind: job.SataSSD, Maker: "Brightwater", Model: "Kestrel S1 960",
			CapacityBytes: 960_197_124_096, Interface: "SATA 6 Gb/s",
			Rated: &job.Rated{ReadMBs: 550, WriteMBs: 500, MaxTempC: 70,
				EnduranceTB: 400}, Price: &job.Price{Amount: "71.50", Currency: "EUR"}}, Simulated: "fresh-ssd"},
		Attached: job.Attached{Port: "sata", LinkMBs: 600, CapableMBs: 600},
		FillPct:  31, TempC: 33, link: 548, bridge: bridgeSpec{depth: 32},
		flash: &flashSpec{channels: 16, readLat: 86e-6, writeLat: 42e-6, aheadLat: 1.72e-05, spread: 0.08, tail: 0.01,
			tailLat: 0.9e-3, writeMBs: 505,
			cacheBytes: 15.5e9, afterMBs: 290, emptyMBs: 200, flushLat: 2.5e-3},
		heat: heatSpec{perGB: 0.2, coolS: 240, slowAt: 67, calm: 6, slowTo: 0.5},
	},
	{
		Name: "office-disk", Title: "a quicker hard disk",
		Label: job.Drive{DriveLabel: job.DriveLabel{Kind: job.HDD, Maker: "Halden", Model: "Curlew 1500",
			CapacityBytes: 1_500_301_910_016, RPM: 7200, Interface: "SATA 6 Gb/s",
			Rated: &job.Rated{ReadMBs: 160, WriteMBs: 155, MaxTempC: 60}}, Simulated: "office-disk"},
		Attached: job.Attached{Port: "sata", LinkMBs: 600, CapableMBs: 600},
		FillPct:  44, TempC: 36, link: 550, bridge: bridgeSpec{depth: 32, overhead: 70e-6},
		disk: &diskSpec{rpm: 7200, zones: zones(162, 78, 20), shortSeek: 0.001, stroke: 0.016, overhead: 0.0004,
			stumble: 0.004, rereads: 0.02, buffer: 32 << 20},
		heat: heatSpec{perGB: 0.12, coolS: 900},
	},
	{
		Name: "roomy-ssd", Title: "a roomy SATA SSD",
		Label: job.Drive{DriveLabel: job.DriveLabel{Kind: job.SataSSD, Maker: "Brightwater", Model: "Kestrel S2 1920",
			CapacityBytes: 1_920_383_410_176, Interface: "SATA 6 Gb/s",
			Rated: &job.Rated{ReadMBs: 545, WriteMBs: 520, MaxTempC: 70,
				EnduranceTB: 900}, Price: &job.Price{Amount: "138.00", Currency: "EUR"}}, Simulated: "roomy-ssd"},
		Attached: job.Attached{Port: "sata", LinkMBs: 600, CapableMBs: 600},
		FillPct:  22, TempC: 32, link: 553, bridge: bridgeSpec{depth: 32},
		flash: &flashSpec{channels: 16, readLat: 74e-6, writeLat: 38e-6, aheadLat: 1.48e-05, spread: 0.08, tail: 0.008,
			tailLat: 0.7e-3, writeMBs: 525,
			cacheBytes: 90e9, afterMBs: 420, emptyMBs: 260, flushLat: 2e-3},
		heat: heatSpec{perGB: 0.18, coolS: 240, slowAt: 67, calm: 6, slowTo: 0.5},
	},
	{
		Name: "swift-nvme", Title: "an NVMe SSD with a small write cache that runs warm",
		Label: job.Drive{DriveLabel: job.DriveLabel{Kind: job.NVMe, Maker: "Brightwater", Model: "Merlin N4 960",
			CapacityBytes: 960_197_124_096, Interface: "PCIe 4.0 x4",
			Rated: &job.Rated{ReadMBs: 4700, WriteMBs: 3600, MaxTempC: 80,
				EnduranceTB: 600}, Price: &job.Price{Amount: "86.40", Currency: "EUR"}}, Simulated: "swift-nvme"},
		Attached: job.Attached{Port: "m2", LinkMBs: 7877, CapableMBs: 7877},
		FillPct:  28, TempC: 41, link: 6900, bridge: bridgeSpec{depth: 256},
		flash: &flashSpec{channels: 64, readLat: 58e-6, writeLat: 14e-6, aheadLat: 1.16e-05, spread: 0.06, tail: 0.004,
			tailLat: 0.6e-3, readMBs: 4650, writeMBs: 3560,
			cacheBytes: 44e9, afterMBs: 1350, emptyMBs: 700, flushLat: 0.8e-3},
		heat: heatSpec{perGB: 0.2, coolS: 90, slowAt: 77, calm: 8, slowTo: 0.3},
	},
	{
		Name: "deep-nvme", Title: "a large NVMe SSD with a deep write cache",
		Label: job.Drive{DriveLabel: job.DriveLabel{Kind: job.NVMe, Maker: "Brightwater", Model: "Merlin N5 1920",
			CapacityBytes: 1_920_383_410_176, Interface: "PCIe 4.0 x4",
			Rated: &job.Rated{ReadMBs: 6600, WriteMBs: 5800, MaxTempC: 80,
				EnduranceTB: 1100}, Price: &job.Price{Amount: "167.00", Currency: "EUR"}}, Simulated: "deep-nvme"},
		Attached: job.Attached{Port: "m2", LinkMBs: 7877, CapableMBs: 7877},
		FillPct:  34, TempC: 38, link: 6900, bridge: bridgeSpec{depth: 256},
		flash: &flashSpec{channels: 64, readLat: 52e-6, writeLat: 13e-6, aheadLat: 1.04e-05, spread: 0.06, tail: 0.004,
			tailLat: 0.6e-3, readMBs: 6520, writeMBs: 5700,
			cacheBytes: 210e9, afterMBs: 1900, emptyMBs: 1100, flushLat: 0.8e-3},
		heat: heatSpec{perGB: 0.15, coolS: 110, slowAt: 77, calm: 8, slowTo: 0.4},
	},
	{
		Name: "board-emmc", Title: "memory soldered to the board",
		Label: job.Drive{DriveLabel: job.DriveLabel{Kind: job.EMMC, Maker: "Thornbeck", Model: "Board 32",
			CapacityBytes: 31_268_536_320, Interface: "eMMC HS200",
			Rated: &job.Rated{ReadMBs: 180, WriteMBs: 60, MaxTempC: 85}}, Simulated: "board-emmc"},
		Attached: job.Attached{Port: "mmc", LinkMBs: 200, CapableMBs: 200},
		FillPct:  74, TempC: 36, link: 172, bridge: bridgeSpec{depth: 1, overhead: 30e-6},
		flash: &flashSpec{channels: 1, readLat: 190e-6, writeLat: 420e-6, aheadLat: 3.8e-05, spread: 0.1, tail: 0.02,
			tailLat: 4e-3, writeMBs: 62,
			cacheBytes: 400e6, afterMBs: 24, emptyMBs: 15, flushLat: 9e-3},
	},
	{
		Name: "hybrid-disk", Title: "a hard disk that learns what is read often",
		Label: job.Drive{DriveLabel: job.DriveLabel{Kind: job.Hybrid, Maker: "Halden", Model: "Dunlin H 1500",
			CapacityBytes: 1_500_301_910_016, RPM: 5400, Interface: "SATA 6 Gb/s",
			Rated: &job.Rated{ReadMBs: 130, WriteMBs: 125, MaxTempC: 60}}, Simulated: "hybrid-disk"},
		Attached: job.Attached{Port: "sata", LinkMBs: 600, CapableMBs: 600},
		FillPct:  40, TempC: 36, link: 550, bridge: bridgeSpec{depth: 32},
		disk: &diskSpec{rpm: 5400, zones: zones(132, 62, 16), shortSeek: 0.0014, stroke: 0.02, overhead: 0.0005,
			stumble: 0.004, rereads: 0.02, buffer: 16 << 20},
		flash: &flashSpec{channels: 4, readLat: 120e-6, writeLat: 200e-6, aheadLat: 2.4e-05, spread: 0.1,
			flushLat: 1e-3},
		cache: &cacheSpec{bytes: 8e9, extent: 64 << 10, after: 2, long: 512 << 10},
	},
	{
		Name: "cached-disk", Title: "a hard disk behind a caching SSD",
		Label: job.Drive{DriveLabel: job.DriveLabel{Kind: job.Cached, Maker: "Halden", Model: "Curlew 1500",
			CapacityBytes: 1_500_301_910_016, RPM: 7200, Interface: "SATA 6 Gb/s",
			Rated: &job.Rated{ReadMBs: 170, WriteMBs: 165, MaxTempC: 60}}, Simulated: "cached-disk"},
		Attached: job.Attached{Port: "sata", LinkMBs: 600, CapableMBs: 600},
		FillPct:  35, TempC: 36, link: 550, bridge: bridgeSpec{depth: 32},
		disk: &diskSpec{rpm: 7200, zones: zones(172, 82, 20), shortSeek: 0.001, stroke: 0.016, overhead: 0.0004,
			stumble: 0.004, rereads: 0.02, buffer: 32 << 20},
		flash: &flashSpec{channels: 16, readLat: 84e-6, writeLat: 40e-6, aheadLat: 1.68e-05, spread: 0.08,
			flushLat: 2e-3},
		cache: &cacheSpec{bytes: 60e9, extent: 64 << 10, after: 1, long: 1 << 20},
	},
	{
		Name: "usb-ssd", Title: "a SATA SSD in a USB case",
		Label: job.Drive{DriveLabel: job.DriveLabel{Kind: job.SataSSD, Maker: "Brightwater", Model: "Kestrel S1 960",
			CapacityBytes: 960_197_124_096, Interface: "SATA 6 Gb/s in a USB case",
			Rated: &job.Rated{ReadMBs: 550, WriteMBs: 500, MaxTempC: 70, EnduranceTB: 400}}, Simulated: "usb-ssd"},
		Attached: job.Attached{Port: "usb", LinkMBs: 500, CapableMBs: 1212},
		FillPct:  31, TempC: 35, link: 436, bridge: bridgeSpec{depth: 1, overhead: 60e-6},
		flash: &flashSpec{channels: 16, readLat: 86e-6, writeLat: 42e-6, aheadLat: 1.72e-05, spread: 0.08, tail: 0.01,
			tailLat: 0.9e-3, writeMBs: 505,
			cacheBytes: 42e9, afterMBs: 310, emptyMBs: 200, flushLat: 2.5e-3},
	},
}

// Computer is a simulated computer: what is on its case, the drive that is
// in it and the one that goes in.
type Computer struct {
	Label    job.Computer
	Old, New string // names of simulated drives
}

// Computers are the simulated computers by name. All names are made up.
var Computers = map[string]Computer{
	"laptop": {Old: "worn-disk", New: "fresh-ssd",
		Label: job.Computer{Maker: "Larkfield", Model: "Hearth 15", Processor: "2 cores, 2.3 GHz",
			MemoryBytes: 8 << 30, System: "desktop system, version 10", Simulated: "laptop"}},
	"office": {Old: "office-disk", New: "roomy-ssd",
		Label: job.Computer{Maker: "Ostrand", Model: "Desk Tower 4", Processor: "4 cores, 3.2 GHz",
			MemoryBytes: 16 << 30, System: "desktop system, version 11", Simulated: "office"}},
	"reception": {Old: "worn-disk", New: "fresh-ssd",
		Label: job.Computer{Maker: "Ostrand", Model: "Front Desk 3", Processor: "2 cores, 2.7 GHz",
			MemoryBytes: 8 << 30, System: "desktop system, version 10", Simulated: "reception"}},
	"workstation": {Old: "cached-disk", New: "deep-nvme",
		Label: job.Computer{Maker: "Ostrand", Model: "Plate Station 2", Processor: "8 cores, 3.4 GHz",
			MemoryBytes: 64 << 30, System: "desktop system, version 11", Simulated: "workstation"}},
	"games": {Old: "hybrid-disk", New: "swift-nvme",
		Label: job.Computer{Maker: "Ostrand", Model: "Arena 7", Processor: "6 cores, 3.6 GHz",
			MemoryBytes: 32 << 30, Graphics: "Ostrand Prism 8 GB", System: "desktop system, version 11", Simulated: "games"}},
}
