package server

// LinkAtOnce says how many records are linked while a page waits, so that few are enough to be linked in the background.
func (s *Server) LinkAtOnce(records int) { s.linkedAtOnce = records }
