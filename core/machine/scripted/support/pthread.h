/* Threads (POSIX.1-2017), of which one runs at a time. */
#ifndef BOARD_PTHREAD_H
#define BOARD_PTHREAD_H

#include <time.h>

typedef struct board_thread *pthread_t;
typedef int pthread_attr_t, pthread_mutexattr_t, pthread_condattr_t;
typedef struct {
	int taken;
} pthread_mutex_t;
typedef struct {
	int count;
} pthread_cond_t;

#define PTHREAD_MUTEX_INITIALIZER {0}
#define PTHREAD_COND_INITIALIZER {0}

int pthread_create(pthread_t *thread, const pthread_attr_t *attributes, void *(*function)(void *), void *argument);
int pthread_join(pthread_t thread, void **result);
_Noreturn void pthread_exit(void *result);
int pthread_detach(pthread_t thread);
pthread_t pthread_self(void);
int pthread_equal(pthread_t a, pthread_t b);

int pthread_mutex_init(pthread_mutex_t *mutex, const pthread_mutexattr_t *attributes);
int pthread_mutex_lock(pthread_mutex_t *mutex);
int pthread_mutex_trylock(pthread_mutex_t *mutex);
int pthread_mutex_unlock(pthread_mutex_t *mutex);
int pthread_mutex_destroy(pthread_mutex_t *mutex);

int pthread_cond_init(pthread_cond_t *condition, const pthread_condattr_t *attributes);
int pthread_cond_wait(pthread_cond_t *condition, pthread_mutex_t *mutex);
int pthread_cond_timedwait(pthread_cond_t *condition, pthread_mutex_t *mutex, const struct timespec *until);
int pthread_cond_signal(pthread_cond_t *condition);
int pthread_cond_broadcast(pthread_cond_t *condition);
int pthread_cond_destroy(pthread_cond_t *condition);

#endif
