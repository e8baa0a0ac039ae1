package machine

// Mix is the finaliser of splitmix64 (Steele, Lea, Flood: Fast splittable pseudorandom number generators, OOPSLA 2014):
// a good hash of small inputs, for what is random in a chip.
func Mix(x uint64) uint64 {
	x += 0x9e3779b97f4a7c15
	x = (x ^ x>>30) * 0xbf58476d1ce4e5b9
	x = (x ^ x>>27) * 0x94d049bb133111eb
	return x ^ x>>31
}
