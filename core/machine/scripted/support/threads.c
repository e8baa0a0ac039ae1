/* Threads of the C library's own kind and of wiringPi.h, on those of the board. */
#include "board.h"
#include "wiringPi.h"
#include <errno.h>
#include <pthread.h>
#include <stdlib.h>

#define STACK 65536

struct board_thread {
	void *(*function)(void *);
	void *argument, *result;
	int done;
};

/* The board calls it when a thread begins. */
__attribute__((export_name("board_thread"))) UNCOUNTED void board_thread(void (*function)(void *), void *argument)
{
	function(argument);
}

UNCOUNTED static void run(void *of)
{
	struct board_thread *thread = of;
	thread->result = thread->function(thread->argument);
	thread->done = 1;
}

UNCOUNTED int pthread_create(pthread_t *thread, const pthread_attr_t *attributes, void *(*function)(void *), void *argument)
{
	(void)attributes;
	char *stack = malloc(STACK);
	struct board_thread *t = calloc(1, sizeof *t);
	if (!stack || !t)
		return EAGAIN;
	t->function = function;
	t->argument = argument;
	if (!board_begin(board_blocks(), run, t, stack + STACK))
		return EAGAIN;
	if (thread)
		*thread = t;
	return 0;
}

UNCOUNTED int pthread_join(pthread_t thread, void **result)
{
	board_until(board_blocks(), &thread->done, 0, -1);
	if (result)
		*result = thread->result;
	return 0;
}

UNCOUNTED void pthread_exit(void *result)
{
	static const int never;
	struct board_thread *self = pthread_self();
	self->result = result;
	self->done = 1;
	for (;;)
		board_until(board_blocks(), &never, 0, -1);
}

UNCOUNTED int pthread_detach(pthread_t thread) { (void)thread; return 0; }
UNCOUNTED pthread_t pthread_self(void)
{
	static struct board_thread first;
	struct board_thread *self = board_self();
	return self ? self : &first;
}

UNCOUNTED int pthread_equal(pthread_t a, pthread_t b) { return a == b; }

UNCOUNTED int pthread_mutex_init(pthread_mutex_t *mutex, const pthread_mutexattr_t *attributes)
{
	(void)attributes;
	mutex->taken = 0;
	return 0;
}

UNCOUNTED int pthread_mutex_lock(pthread_mutex_t *mutex)
{
	while (mutex->taken)
		board_until(board_blocks(), &mutex->taken, 1, -1);
	mutex->taken = 1;
	return 0;
}

UNCOUNTED int pthread_mutex_trylock(pthread_mutex_t *mutex)
{
	if (mutex->taken)
		return EBUSY;
	mutex->taken = 1;
	return 0;
}

UNCOUNTED int pthread_mutex_unlock(pthread_mutex_t *mutex) { mutex->taken = 0; return 0; }
UNCOUNTED int pthread_mutex_destroy(pthread_mutex_t *mutex) { (void)mutex; return 0; }

UNCOUNTED int pthread_cond_init(pthread_cond_t *condition, const pthread_condattr_t *attributes)
{
	(void)attributes;
	condition->count = 0;
	return 0;
}

UNCOUNTED static void wait_for(pthread_cond_t *condition, pthread_mutex_t *mutex, int64_t microseconds)
{
	int count = condition->count;
	mutex->taken = 0;
	board_until(board_blocks(), &condition->count, count, microseconds);
	pthread_mutex_lock(mutex);
}

UNCOUNTED int pthread_cond_wait(pthread_cond_t *condition, pthread_mutex_t *mutex)
{
	wait_for(condition, mutex, -1);
	return 0;
}

UNCOUNTED int pthread_cond_timedwait(pthread_cond_t *condition, pthread_mutex_t *mutex, const struct timespec *until)
{
	struct timespec now;
	clock_gettime(CLOCK_REALTIME, &now);
	int64_t left = (until->tv_sec - now.tv_sec) * 1000000ll + (until->tv_nsec - now.tv_nsec) / 1000;
	int count = condition->count;
	wait_for(condition, mutex, left > 0 ? left : 0);
	return condition->count == count ? ETIMEDOUT : 0;
}

UNCOUNTED int pthread_cond_broadcast(pthread_cond_t *condition) { condition->count++; return 0; }
UNCOUNTED int pthread_cond_signal(pthread_cond_t *condition) { return pthread_cond_broadcast(condition); }
UNCOUNTED int pthread_cond_destroy(pthread_cond_t *condition) { (void)condition; return 0; }

UNCOUNTED int piThreadCreate(void *(*function)(void *))
{
	return pthread_create(0, 0, function, 0);
}

static pthread_mutex_t keys[4];

UNCOUNTED void piLock(int key) { pthread_mutex_lock(&keys[key & 3]); }
UNCOUNTED void piUnlock(int key) { pthread_mutex_unlock(&keys[key & 3]); }
UNCOUNTED int piHiPri(int priority) { (void)priority; return 0; }
