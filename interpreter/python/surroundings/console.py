"""The console: what is printed goes there, and what a person types comes from there."""
import builtins
import collections
import io
import sys

from surroundings.board import NEVER
from surroundings.buses import Port


class Screen(io.TextIOBase):
    """sys.stdout."""

    encoding = "utf-8"

    def __init__(self, board):
        self.board = board

    def writable(self):
        return True

    def write(self, text):
        if not isinstance(text, str):
            raise TypeError(f"write() argument must be str, not {type(text).__name__}")
        self.board.show(text)
        return len(text)


class Keyboard(io.TextIOBase):
    """sys.stdin. On Linux a script gets whole lines, which its board has shown; a microcontroller gives each character, and
    shows only what input() reads."""

    encoding = "utf-8"

    def __init__(self, board, pin, micro):
        self.board, self.pin, self.micro = board, pin, micro
        self.port = None
        self.text = collections.deque()  # characters that can be read

    def readable(self):
        return True

    def isatty(self):
        return True

    def listen(self):
        if self.pin is None:
            raise EOFError("nobody types at this terminal")
        if self.port is None:
            self.port = Port(self.board, 0, self.pin, self.board.character // 10, 10, self.came)
            self.port.take()

    def came(self, data):
        self.port.data.clear()
        self.text.extend(data.decode("latin-1").replace("\r", "\n"))

    def ready(self):
        """Whether a read would not wait."""
        if self.pin is None:
            return False
        self.listen()
        if self.board.now >= self.board.horizon:
            self.board.look()
        return bool(self.text)

    def wait(self, until=NEVER):
        self.listen()
        return self.port.wait(until)

    def readline(self, size=-1):
        if self.pin is None:
            return ""
        self.listen()
        out = ""
        while not out.endswith("\n") and len(out) != size:
            while not self.text:
                self.wait()
            out += self.text.popleft()
        return out

    def read(self, size=-1):
        if self.pin is None:
            return ""
        self.listen()
        out = ""
        while len(out) != size:
            while not self.text:
                if out and not self.micro:  # as much of a line as there is
                    return out
                self.wait()
            out += self.text.popleft()
        return out

    def entered(self):
        """A line for input()."""
        self.listen()
        if not self.micro:
            return self.readline()[:-1]
        line = ""
        while not line.endswith("\n"):
            while not self.text:
                self.wait()
            c = self.text.popleft()
            if c not in "\b\x7f":
                line += c
                self.board.show(c)
            elif line:
                line = line[:-1]
                self.board.show("\b \b")
        return line[:-1]


def attach(board, pin, micro):
    """Put a console where nobody types if there is no pin; it gives what is done to modules for that."""
    sys.stdout = sys.__stdout__ = sys.stderr = sys.__stderr__ = Screen(board)
    keyboard = sys.stdin = sys.__stdin__ = Keyboard(board, pin, micro)

    def ask(prompt=""):
        board.show(str(prompt))
        return keyboard.entered()

    builtins.input = ask

    def select(module):
        plain = module.select

        def until(timeout):
            return NEVER if timeout is None or timeout < 0 else board.now + int(timeout * 1e9)

        class Select:  # a function in a class would become a method
            def __call__(self, r, w, x, timeout=None):
                board.spend(board.cost)
                end, others = until(timeout), [f for f in r if f is not keyboard]
                while True:
                    found = plain(others, w, x, 0)
                    if keyboard in r and keyboard.ready():
                        found[0].append(keyboard)
                    if any(found) or board.now >= end:
                        return tuple(found)
                    if keyboard in r and pin is not None:
                        keyboard.wait(end)
                    else:
                        board.wait(end)

        class Poll:
            def __init__(self):
                self.files = {}

            def register(self, file, events=1):
                self.files[id(file)] = file, events

            modify = register

            def unregister(self, file):
                del self.files[id(file)]

            def poll(self, timeout=-1):
                found, _, _ = module.select([f for f, events in self.files.values() if events & 1], [], [],
                                            None if timeout is None or timeout < 0 else timeout / 1000)
                return [(f, 1) for f in found]

            ipoll = poll

        module.select, module.poll = Select(), Poll

    return {"select": select}
