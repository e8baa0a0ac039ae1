#!/bin/sh
# Installs what builds and tests need from Debian's packages, where it is missing: the AVR toolchain with the core
# for setup() and loop(), the Arm one with its C library, an assembler for PICs, front ends for Verilog and VHDL, a simulator of Verilog to compare with, an interpreter of scripts, a sandbox, a browser, and two C compilers. As another user than root, sudo is used.
set -eu
missing=""
need() { command -v "$1" >/dev/null 2>&1 || missing="$missing $2"; }
need avr-gcc gcc-avr
need avr-objcopy binutils-avr
[ -e /usr/lib/avr/include/avr/io.h ] || missing="$missing avr-libc"
need arm-none-eabi-gcc gcc-arm-none-eabi
[ -e /usr/include/newlib/stdio.h ] || missing="$missing libnewlib-arm-none-eabi"
need gpasm gputils
need yosys yosys
need ghdl-mcode ghdl-mcode
need verilator_bin verilator
need iverilog iverilog
[ -x /usr/bin/python3 ] || missing="$missing python3"
[ -e /usr/lib/python3/dist-packages/gpiozero ] || missing="$missing python3-gpiozero"
need chromium chromium
need bwrap bubblewrap
[ -e /usr/share/arduino/hardware/arduino/avr/cores/arduino/Arduino.h ] || missing="$missing arduino-core-avr"
need gcc gcc
need clang clang
need wasm-ld lld
[ -e /usr/include/wasm32-wasi/stdio.h ] || missing="$missing wasi-libc"
ls /usr/lib/llvm-*/lib/clang/*/lib/wasi/*.a >/dev/null 2>&1 || missing="$missing libclang-rt-dev-wasm32"
[ -n "$missing" ] || exit 0
echo "installing:$missing"
root=""
[ "$(id -u)" = 0 ] || root=sudo
export DEBIAN_FRONTEND=noninteractive
$root apt-get update -qq
# shellcheck disable=SC2086
$root apt-get install -y -qq --no-install-recommends $missing fonts-dejavu-core >/dev/null
