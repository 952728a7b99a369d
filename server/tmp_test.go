package server
import ("testing";"nowthen/core/compare")
func BenchmarkTmp(b *testing.B){ j:=large(60,10000); x:=j.Indexed(); for b.Loop(){ compare.Indexed(x,"then","now",compare.DefaultOptions)}}
