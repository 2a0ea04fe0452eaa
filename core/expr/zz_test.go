package expr

import "testing"

func BenchmarkCompile(b *testing.B) {
	for b.Loop() {
		if _, err := Compile(liftScope(), `lift.goods && lift.load > 0.05`); err != nil {
			b.Fatal(err)
		}
	}
}
