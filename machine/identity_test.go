package machine

import (
	"net"
	"testing"

	"github.com/stretchr/testify/assert"
)

func port(address string) net.Interface {
	a, err := net.ParseMAC(address)
	if err != nil {
		panic(err)
	}
	return net.Interface{HardwareAddr: a}
}

func TestAComputerIsKnownAgain(t *testing.T) {
	cable, radio, chosen := port("00:00:5e:00:53:01"), port("00:00:5e:00:53:02"), port("02:42:ac:11:00:02")
	one := identity("Ostrand", "Desk Tower 4", []net.Interface{cable, radio})
	assert.NotEmpty(t, one)
	assert.NotContains(t, one, "5e", "nobody reads an address out of it")
	assert.Equal(t, one, identity("Ostrand", "Desk Tower 4", []net.Interface{chosen, radio, cable}),
		"in another order, beside a virtual port")
	assert.NotEqual(t, one, identity("Ostrand", "Desk Tower 4", []net.Interface{radio}),
		"another computer of the model")
	assert.Empty(t, identity("Ostrand", "Desk Tower 4", []net.Interface{chosen, {}}), "nothing tells it")
}
