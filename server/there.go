package server

import (
	"errors"
	"net"
	"syscall"
	"time"
)

// lookAgain is how often it is looked whether somebody still waits for an answer.
const lookAgain = 200 * time.Millisecond

// whileThere calls gone when the other side of a connection has left. It gives what ends that.
func whileThere(conn net.Conn, gone func()) (end func()) {
	raw, ok := conn.(syscall.Conn)
	if !ok {
		return func() {}
	}
	over := make(chan struct{})
	var timer *time.Timer
	timer = time.AfterFunc(lookAgain, func() {
		select {
		case <-over:
		default:
			if left(raw) {
				gone()
				return
			}
			timer.Reset(lookAgain)
		}
	})
	return func() {
		close(over)
		timer.Stop()
	}
}

// left says whether the other side of a connection has closed it. What it may have sent besides is
// left to be read.
func left(conn syscall.Conn) bool {
	raw, err := conn.SyscallConn()
	if err != nil {
		return true
	}
	closed := false
	err = raw.Control(func(fd uintptr) {
		n, _, err := syscall.Recvfrom(int(fd), make([]byte, 1), syscall.MSG_PEEK|syscall.MSG_DONTWAIT)
		closed = n == 0 && err == nil || err != nil && !errors.Is(err, syscall.EAGAIN) && !errors.Is(err, syscall.EINTR)
	})
	return closed || err != nil
}
