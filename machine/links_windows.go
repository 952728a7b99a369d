package machine

import (
	"encoding/binary"
	"unsafe"

	"golang.org/x/sys/windows"

	"nowthen/core/hardware/answers"
	"nowthen/core/job"
)

// Of the tree of devices, what golang.org/x/sys does not call.
var (
	configuration     = windows.NewLazySystemDLL("cfgmgr32.dll")
	interfaceProperty = configuration.NewProc("CM_Get_Device_Interface_PropertyW")
	locateNode        = configuration.NewProc("CM_Locate_DevNodeW")
	parentNode        = configuration.NewProc("CM_Get_Parent")
	nodeProperty      = configuration.NewProc("CM_Get_DevNode_PropertyW")
	disksInterface    = windows.GUID{Data1: 0x53f56307, Data2: 0xb6bf, Data3: 0x11d0,
		Data4: [8]byte{0x94, 0xf2, 0x00, 0xa0, 0xc9, 0x1e, 0xfb, 0x8b}}
	instanceOf = propertyKey{windows.GUID{Data1: 0x78c34fc8, Data2: 0x104a, Data3: 0x4aca,
		Data4: [8]byte{0x9e, 0xa4, 0x52, 0x4d, 0x52, 0x99, 0x6e, 0x57}}, 256}
	pcie = windows.GUID{Data1: 0x3ab22e31, Data2: 0x8264, Data3: 0x4b4e,
		Data4: [8]byte{0x9a, 0xf5, 0xa8, 0xd2, 0xd8, 0xe3, 0x3e, 0x62}}
	currentGeneration = propertyKey{pcie, 9}
	currentLanes      = propertyKey{pcie, 10}
	mostGeneration    = propertyKey{pcie, 11}
	mostLanes         = propertyKey{pcie, 12}
	addressOf         = propertyKey{windows.GUID{Data1: 0xa45c254e, Data2: 0xdf1c, Data3: 0x4efd,
		Data4: [8]byte{0x80, 0x20, 0x67, 0xd1, 0x46, 0xa8, 0x50, 0xe0}}, 30}
	hubsInterface = windows.GUID{Data1: 0xf18a0e88, Data2: 0xc30c, Data3: 0x11d0,
		Data4: [8]byte{0x88, 0x15, 0x00, 0xa0, 0xc9, 0x06, 0xbe, 0xd8}}
)

// propertyKey is DEVPROPKEY.
type propertyKey struct {
	of  windows.GUID
	pid uint32
}

// Questions to a hub about one of its ports (usbioctl.h).
const (
	ioctlUSBConnection   = 0x00220448
	ioctlUSBConnectionV2 = 0x0022045C
)

// treeLinks are the links of the drives that hang on PCIe themselves or on USB, by the drives' numbers.
func treeLinks() map[int]*job.Link {
	links := map[int]*job.Link{}
	for _, p := range []*windows.LazyProc{interfaceProperty, locateNode, parentNode, nodeProperty} {
		if p.Find() != nil {
			return links // an old system
		}
	}
	paths, err := windows.CM_Get_Device_Interface_List("", &disksInterface, 0)
	if err != nil {
		return links
	}
	for _, path := range paths {
		n, ok := driveNumber(path)
		if !ok {
			continue
		}
		var instance [256]uint16
		size, kind := uint32(unsafe.Sizeof(instance)), uint32(0)
		p16, err := windows.UTF16PtrFromString(path)
		if err != nil {
			continue
		}
		if r, _, _ := interfaceProperty.Call(uintptr(unsafe.Pointer(p16)), uintptr(unsafe.Pointer(&instanceOf)),
			uintptr(unsafe.Pointer(&kind)), uintptr(unsafe.Pointer(&instance)), uintptr(unsafe.Pointer(&size)), 0); r != 0 {
			continue
		}
		var node, above uint32
		if r, _, _ := locateNode.Call(uintptr(unsafe.Pointer(&node)), uintptr(unsafe.Pointer(&instance)), 0); r != 0 {
			continue
		}
		if r, _, _ := parentNode.Call(uintptr(unsafe.Pointer(&above)), uintptr(node), 0); r != 0 {
			continue // above the drive stands its controller
		}
		if isUSB(n) {
			if l := usbLink(above); l != nil {
				links[n] = l
			}
			continue
		}
		l := &job.Link{Kind: "pcie",
			Negotiated: answers.PCIeLink(number(above, &currentGeneration),
				number(above, &currentLanes)),
			Drive: answers.PCIeLink(number(above, &mostGeneration), number(above, &mostLanes))}
		var port uint32
		if r, _, _ := parentNode.Call(uintptr(unsafe.Pointer(&port)), uintptr(above), 0); r == 0 {
			l.Port = answers.PCIeLink(number(port, &mostGeneration), number(port, &mostLanes))
		}
		if l.Negotiated != "" && isNVMe(n) { // the link of a controller for other ports is not the drive's
			links[n] = l
		}
	}
	return links
}

// number is a device's property that is a number; 0 where it has none.
func number(node uint32, key *propertyKey) uint32 {
	var value, kind uint32
	size := uint32(unsafe.Sizeof(value))
	const isNumber = 7 // DEVPROP_TYPE_UINT32
	if r, _, _ := nodeProperty.Call(uintptr(node), uintptr(unsafe.Pointer(key)), uintptr(unsafe.Pointer(&kind)),
		uintptr(unsafe.Pointer(&value)), uintptr(unsafe.Pointer(&size)), 0); r != 0 || kind != isNumber {
		return 0
	}
	return value
}

// driveNumber is the number of the drive behind an interface's path.
func driveNumber(path string) (int, bool) {
	d, err := openDevice(path, 0)
	if err != nil {
		return 0, false
	}
	defer d.close()
	b, err := d.ask(ioctlStorageGetDeviceNumber, nil, 12)
	if err != nil || len(b) < 12 {
		return 0, false
	}
	return int(*(*uint32)(unsafe.Pointer(&b[4]))), true
}

func isNVMe(n int) bool { return portOf(n) == job.PortPCIe }
func isUSB(n int) bool  { return portOf(n) == job.PortUSB }

// portOf is on what kind of port a drive is attached to, "" if it does not report it.
func portOf(n int) job.Port {
	d, err := openDevice(drivePath(n), 0)
	if err != nil {
		return ""
	}
	defer d.close()
	b, err := d.property(propertyDevice)
	if err != nil {
		return ""
	}
	is, err := answers.WindowsDevice(b)
	if err != nil {
		return ""
	}
	return is.Port
}

// usbLink is the link of a device on USB, told by its hub; nil where that does not tell.
func usbLink(node uint32) *job.Link {
	port := number(node, &addressOf)
	var hub uint32
	if r, _, _ := parentNode.Call(uintptr(unsafe.Pointer(&hub)), uintptr(node), 0); r != 0 || port == 0 {
		return nil
	}
	var instance [256]uint16
	size, kind := uint32(unsafe.Sizeof(instance)), uint32(0)
	if r, _, _ := nodeProperty.Call(uintptr(hub), uintptr(unsafe.Pointer(&instanceOf)), uintptr(unsafe.Pointer(&kind)),
		uintptr(unsafe.Pointer(&instance)), uintptr(unsafe.Pointer(&size)), 0); r != 0 {
		return nil
	}
	paths, err := windows.CM_Get_Device_Interface_List(windows.UTF16ToString(instance[:]), &hubsInterface, 0)
	if err != nil || len(paths) == 0 {
		return nil
	}
	d, err := openDevice(paths[0], windows.GENERIC_WRITE)
	if err != nil {
		return nil
	}
	defer d.close()
	ask := func(code uint32, question ...uint32) []byte {
		const most = 1024
		b := make([]byte, most)
		for i, v := range question {
			binary.LittleEndian.PutUint32(b[4*i:], v)
		}
		answer, err := d.ask(code, b, most)
		if err != nil {
			return nil
		}
		return answer
	}
	const v2Length, allProtocols = 16, 7
	return answers.WindowsUSB(ask(ioctlUSBConnection, port), ask(ioctlUSBConnectionV2, port, v2Length, allProtocols))
}
