package table

// foldSet notes which hashes were added more than once, by open addressing; much
// quicker than a map for a million distinct values. Hash 0 is kept as 1.
type foldSet struct {
	keys []uint64
	more []bool
	mask uint64
}

func newFoldSet(n int) *foldSet {
	size := uint64(16)
	for size < uint64(n)*2 {
		size *= 2
	}
	return &foldSet{make([]uint64, size), make([]bool, size), size - 1}
}

func (s *foldSet) find(key uint64) uint64 {
	i := key & s.mask
	for s.keys[i] != 0 && s.keys[i] != key {
		i = (i + 1) & s.mask
	}
	return i
}

func (s *foldSet) add(key uint64) {
	key = max(key, 1)
	i := s.find(key)
	s.more[i] = s.keys[i] == key
	s.keys[i] = key
}

func (s *foldSet) shared(key uint64) bool { return s.more[s.find(max(key, 1))] }
