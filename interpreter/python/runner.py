"""Starts a script under simulated time, as run.json beside this file says."""
import ast
import builtins
import importlib.machinery
import json
import os
import sys

HERE, WORK = "/hemble", "/work"
sys.path.insert(0, HERE)


class Ticks(ast.NodeTransformer):
    """Has each block say how many statements it has; of the file with a number, also each statement that it is reached."""

    def __init__(self, number):
        self.number = number

    def block(self, body, more=0, counts=True):
        lines = [(s.lineno, self.last(s)) for s in body]
        body = [self.visit(s) for s in body]
        at = 0
        while at < len(body) and (
            isinstance(body[at], ast.ImportFrom) and body[at].module == "__future__"
            or at == 0 and isinstance(body[at], ast.Expr) and isinstance(body[at].value, ast.Constant)
        ):
            at += 1
        if at < len(body):
            call = ast.Call(ast.Name("__tick__", ast.Load()), [ast.Constant(len(body) - at + more)], [])
            covered = zip(body[at:], lines[at:])
            body[at:] = [ast.copy_location(ast.Expr(call), body[at])] if counts else []
            for statement, (first, last) in covered:
                if self.number is not None:
                    reached = ast.Call(ast.Name("__reach__", ast.Load()), [ast.Constant(self.number << 20 | n) for n in (first, last)], [])
                    body.append(ast.copy_location(ast.Expr(reached), statement))
                body.append(statement)
        return body

    @staticmethod
    def last(statement):
        """The last line of a statement, without the statements within it."""
        body = getattr(statement, "body", None) or getattr(statement, "cases", None)
        return max(statement.lineno, getattr(body[0], "lineno", statement.lineno + 1) - 1) if body else statement.end_lineno

    def generic_visit(self, node):
        for field, value in ast.iter_fields(node):
            if isinstance(value, list) and value and isinstance(value[0], ast.stmt):
                loop, made = isinstance(node, (ast.For, ast.While, ast.AsyncFor)), isinstance(node, ast.ClassDef)
                setattr(node, field, self.block(value, loop, not made))
            elif isinstance(value, list):
                setattr(node, field, [self.visit(v) if isinstance(v, ast.AST) else v for v in value])
            elif isinstance(value, ast.AST):
                setattr(node, field, self.visit(value))
        return node


cover = {}  # the numbers of the files whose lines are told


def compiled(text, name):
    tree = Ticks(cover.get(name)).visit(ast.parse(text, name))
    return compile(ast.fix_missing_locations(tree), name, "exec", dont_inherit=True)


class Modules:
    """Finds the script's own modules, and loads them. (importlib.abc, which has classes for that, takes long to load.)"""

    def __init__(self, files):
        self.files = files

    def find_spec(self, name, path=None, target=None):
        stem = name.replace(".", "/")
        for file, package in ((stem + ".py", False), (stem + "/__init__.py", True)):
            if file in self.files:
                spec = importlib.machinery.ModuleSpec(name, self, origin=file, is_package=package)
                return spec
        return None

    def create_module(self, spec):
        return None

    def exec_module(self, module):
        file = module.__spec__.origin
        module.__file__ = file
        with open(WORK + "/" + file, encoding="utf-8") as f:
            exec(compiled(f.read(), file), module.__dict__)


def main():
    with open(HERE + "/run.json", encoding="utf-8") as f:
        run = json.load(f)
    entry, files = run["main"], run["files"]
    from surroundings import console, simulated
    from surroundings.board import Board

    receive, send = os.fdopen(os.dup(0), "rb"), os.dup(1)
    null = os.open("/dev/null", os.O_RDWR)
    os.dup2(null, 0)
    os.dup2(null, 1)
    board = Board(receive, send, files, run["cost"], run["pin_cost"], run["console"])
    board.numbering, board.header = run["numbering"], run["header"]
    builtins.__board__, builtins.__tick__, builtins.__reach__ = board, board.tick, board.reach
    if run["cover"]:
        cover.update(board.files)
    simulated.threads(board)
    time = simulated.clock(board)
    changes = simulated.waiting(board)
    changes.update(datetime=simulated.dates(time), random=simulated.chance(run["seed"]))
    changes.update(console.attach(board, run["console"]["Pin"] if run["console"]["Typed"] else None, run["micro"]))
    import threading
    import traceback

    def told(error):
        """An exception in the words of its last line, with where in the script it came from, and by which calls."""
        at = [f"{frame.filename}:{frame.lineno}" for frame in traceback.extract_tb(error.__traceback__) if frame.filename in files]
        if isinstance(error, SyntaxError) and error.filename in files:
            at.append(f"{error.filename}:{error.lineno}")
        text = "".join(traceback.format_exception_only(type(error), error)).strip().splitlines()[-1][:300]
        if at:
            text = f"{at[-1]}: {text}"
        if len(at) > 1:  # the nearest calls say most
            text += ", called at " + ", ".join(at[-2:-5:-1])
        return text

    def failed(error):
        board.show(f"exception in a thread: {told(error)}\n")
        board.note("thread-exception", "a thread ended by an exception: " + told(error))

    board.failed = failed
    threading.excepthook = lambda args: args.exc_type is SystemExit or failed(args.exc_value)
    if not run["micro"]:
        from surroundings import packages

        changes.update(packages.changes())
        sys.meta_path.append(packages.Packages())
    else:
        changes.update(simulated.micro(board, time, files))
    for name in list(changes):
        if name in sys.modules:
            changes.pop(name)(sys.modules[name])
    sys.meta_path[:0] = [Modules(files), simulated.After(changes)]
    sys.path[:] = [p for p in sys.path if p and not p.startswith(HERE)] + [HERE + ("/micro" if run["micro"] else "/linux"), HERE]
    sys.argv = [entry]
    module = type(sys)("__main__")
    sys.modules["__main__"] = module
    module.__file__, module.__builtins__ = entry, builtins
    ended = ""
    try:
        with open(WORK + "/" + entry, encoding="utf-8") as f:
            text = f.read()
        exec(compiled(text, entry), module.__dict__)
        threading._shutdown()
    except SystemExit:
        pass
    except BaseException as error:
        ended = told(error)
    try:
        import atexit

        atexit._run_exitfuncs()
    except BaseException as error:
        ended = ended or told(error)
    board.due()
    board.say(f"x {board.now} {json.dumps(ended)}\n")
    board.flush()
    os._exit(0)


main()
