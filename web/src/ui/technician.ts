/** technician is the person working at this device, who ticks and times. It is stored on the device. */
export const technician = {
  get: () => localStorage.getItem('technician') ?? '',
  set: (name: string) => localStorage.setItem('technician', name),
}
