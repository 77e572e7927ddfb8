#!/usr/bin/env bash
# Installs, builds and runs the demo: the braking hydrosol tote. Pictures land in demo/.
targets=(wavy)
source "$(dirname "$0")/tools/prepare.sh"
build/src/wavy demo --force
