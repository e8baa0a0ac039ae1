package sandbox

import (
	"encoding/binary"
	"syscall"

	seccomp "github.com/elastic/go-seccomp-bpf"
	"github.com/elastic/go-seccomp-bpf/arch"
	"golang.org/x/net/bpf"
)

// allowed are the system calls that a shell, a compiler and an interpreter need: files, memory, processes, signals,
// time. There are no sockets, no mounts, no tracing, no keys, no memory that is shared or has no name, nothing that
// sets the machine. A name that a processor does not have is passed over.
var allowed = []string{
	"read", "write", "open", "openat", "openat2", "close", "close_range", "stat", "fstat", "lstat", "newfstatat",
	"statx", "statfs", "fstatfs", "lseek",
	"readv", "writev", "pread64", "pwrite64", "preadv", "pwritev", "access", "faccessat", "faccessat2", "pipe", "pipe2",
	"dup", "dup2", "dup3",
	"fcntl", "flock", "fsync", "fdatasync", "truncate", "ftruncate", "fallocate", "getdents", "getdents64", "getcwd",
	"chdir", "fchdir", "rename",
	"renameat", "renameat2", "mkdir", "mkdirat", "rmdir", "creat", "link", "linkat", "unlink", "unlinkat", "symlink",
	"symlinkat", "readlink",
	"readlinkat", "chmod", "fchmod", "fchmodat", "umask", "utime", "utimes", "utimensat", "futimesat", "sendfile",
	"copy_file_range", "splice",
	"ioctl", "fadvise64", "readahead",
	"mmap", "mprotect", "munmap", "mremap", "madvise", "brk", "msync", "mincore", "membarrier",
	"clone", "fork", "vfork", "execve", "exit", "exit_group", "wait4", "waitid", "kill", "tgkill", "tkill", "getpid",
	"getppid", "gettid", "getpgid",
	"getpgrp", "setpgid", "getsid", "setsid", "getuid", "geteuid", "getgid", "getegid", "getgroups", "getresuid",
	"getresgid", "set_tid_address",
	"set_robust_list", "get_robust_list", "rseq", "futex", "sched_yield", "sched_getaffinity", "sched_getparam",
	"sched_getscheduler", "getpriority",
	"prctl", "arch_prctl", "getrlimit", "setrlimit", "prlimit64", "getrusage", "sysinfo", "uname", "getrandom",
	"getcpu", "capget",
	"rt_sigaction", "rt_sigprocmask", "rt_sigreturn", "rt_sigsuspend", "rt_sigpending", "rt_sigtimedwait",
	"rt_sigqueueinfo", "sigaltstack",
	"restart_syscall", "pause", "alarm", "getitimer", "setitimer",
	"poll", "ppoll", "select", "pselect6", "epoll_create", "epoll_create1", "epoll_ctl", "epoll_wait", "epoll_pwait",
	"eventfd", "eventfd2",
	"clock_gettime", "clock_getres", "clock_nanosleep", "gettimeofday", "time", "times", "nanosleep", "timerfd_create",
	"timerfd_settime", "timerfd_gettime",
}

// absent are those that libraries try first and do without where the kernel does not know them.
var absent = []string{"clone3"}

// systemCalls is the filter as the kernel takes it: an array of struct sock_filter (linux/filter.h). What it does not
// name, and every call in the manner of another processor, is refused.
func systemCalls() ([]byte, error) {
	here, err := arch.GetInfo("")
	if err != nil {
		return nil, err
	}
	known := func(names []string) (out []string) {
		for _, name := range names {
			if _, ok := here.SyscallNames[name]; ok {
				out = append(out, name)
			}
		}
		return out
	}
	policy := seccomp.Policy{DefaultAction: seccomp.ActionErrno, Syscalls: []seccomp.SyscallGroup{
		{Names: known(allowed), Action: seccomp.ActionAllow},
		{Names: known(absent), Action: seccomp.Action(uint32(seccomp.ActionErrno)&0xffff0000 | uint32(syscall.ENOSYS))},
	}}
	program, err := policy.Assemble()
	if err != nil {
		return nil, err
	}
	raw, err := bpf.Assemble(program)
	if err != nil {
		return nil, err
	}
	var out []byte
	for _, i := range raw {
		out = binary.NativeEndian.AppendUint16(out, i.Op)
		out = append(out, i.Jt, i.Jf)
		out = binary.NativeEndian.AppendUint32(out, i.K)
	}
	return out, nil
}
