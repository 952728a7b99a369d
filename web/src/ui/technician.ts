/** technician is who works at this device: who ticks, who times. It is a thing of the device, so it stays on it. */
export const technician = {
  get: () => localStorage.getItem('technician') ?? '',
  set: (name: string) => localStorage.setItem('technician', name),
}
