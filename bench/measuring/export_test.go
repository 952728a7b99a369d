package measuring

import "nowthen/core/round"

// Around puts something between the rounds and their places.
func (x *Rounds) Around(f func(round.Place) round.Place) { x.around = f }

// Battery puts another battery into this computer.
func (x *Rounds) Battery(f func() (float64, bool)) { x.battery = f }
