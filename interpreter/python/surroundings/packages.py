"""Packages of the system that scripts on a Linux board may use, and no others of it."""
import importlib.machinery

PLACE = "/usr/lib/python3/dist-packages"
NAMES = {"gpiozero", "colorzero"}


class Packages:
    def find_spec(self, name, path=None, target=None):
        if path is None and name in NAMES:
            return importlib.machinery.PathFinder.find_spec(name, [PLACE])
        return None


def changes():
    """gpiozero takes its pins from here, by its interface for that."""

    def pins(gpiozero):
        from gpiozero.pins.rpigpio import RPiGPIOFactory

        class Factory(RPiGPIOFactory):
            def _get_revision(self):
                return 0xA02082  # a board with the usual header of 40 pins

        gpiozero.Device.pin_factory = Factory()

    return {"gpiozero": pins}
