// The command line of the program.
#pragma once

namespace wavy {

inline constexpr int exit_failed = 1;
inline constexpr int exit_wrong_input = 2;

/// Does what the command line asks for. The exit code; throws what the command throws.
int command_line(int argc, char** argv);

}  // namespace wavy
