// Figures of a line alone: its slugs, and the receiver behind it.
#pragma once

#include <nlohmann/json_fwd.hpp>

#include "app/commands.hpp"
#include "base/table.hpp"
#include "results/run_folder.hpp"

namespace wavy {

/// Count, lengths, speed and period of the slugs that passed each watched place.
Rows slug_rows(const RunFolder& run, double from, double to, nlohmann::ordered_json& out);

/// How large the receiver behind a line must be for drain rates, with --chart drawn; none of a vessel. Throws an input
/// error where it is asked for behind none.
Rows receiver_rows(const MeasureRequest& request, const RunFolder& run, const Table& history, double from,
                   nlohmann::ordered_json& out);

}  // namespace wavy
