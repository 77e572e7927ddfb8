// Slugs as bodies with a front and a tail on the sections of the line: how they cover faces, move, begin and end.
//
// They own no mass: a section's liquid is what it holds, and what is not in its slugs is the film beside them. A front
// takes the film ahead in by its mass balance; a tail moves like the long bubble behind it, or, where the film behind
// runs faster than that, by its mass balance too.
#include <algorithm>
#include <cassert>
#include <cmath>

#include "line/model.hpp"

namespace wavy::line {

/// The longest way from a closed beginning to the outlet.
void Model::find_way() {
  on_way_.assign(sections_.size(), -1);
  std::vector<double> length(sections_.size());  // to the outlet
  std::size_t first = 0;
  for (std::size_t i = sections_.size(); i-- > 0;) {
    const int next = sections_[i].next;
    length[i] = sections_[i].length + (next == Section::outlet ? 0.0 : length[static_cast<std::size_t>(next)]);
    if (length[i] >= length[first]) first = i;
  }
  for (auto i = static_cast<int>(first); i != Section::outlet; i = sections_[static_cast<std::size_t>(i)].next) {
    on_way_[static_cast<std::size_t>(i)] = static_cast<int>(way_.size());
    way_.push_back(static_cast<std::size_t>(i));
  }
}

std::size_t Model::section_on_way(double place) const {
  const auto found = std::partition_point(
      way_.begin(), way_.end(), [&](std::size_t i) { return sections_[i].place + 0.5 * sections_[i].length < place; });
  return found == way_.end() ? way_.back() : *found;
}

/// In steep pipes that rise, liquid falls back through long bubbles: there is no film and no body to tell apart, and
/// the drift of the gas takes over. A slug that runs into one leaves what is followed, as at the outlet.
bool Model::carries_slugs(std::size_t section) const {
  constexpr double steep = 0.2;
  return on_way_[section] >= 0 && std::abs(sections_[section].bore.sine) < steep;
}

/// Volume flux at a place, linear between faces [m/s].
double Model::flux_at(double place) const {
  const std::size_t i = section_on_way(place);
  const double after = flux_before(i);
  const int from = on_way_[i] > 0 ? static_cast<int>(way_[static_cast<std::size_t>(on_way_[i]) - 1]) : -1;
  const double before = from < 0 ? 0.0 : flux_before(static_cast<std::size_t>(from));
  const double share = std::clamp((place - sections_[i].place) / sections_[i].length + 0.5, 0.0, 1.0);
  return before + share * (after - before);
}

/// Lengths in sections, between the middles of sections, and shares of the step in which faces lie in a slug.
void Model::cover_faces(double dt) {
  std::fill(in_slugs_.begin(), in_slugs_.end(), 0.0);
  std::fill(covered_length_.begin(), covered_length_.end(), 0.0);
  for (auto& face : faces_) face.covered = 0;
  for (const auto& slug : slugs_) {
    for (auto at = static_cast<std::size_t>(on_way_[section_on_way(slug.tail)]); at < way_.size(); ++at) {
      const std::size_t i = way_[at];
      const auto& own = sections_[i];
      const double low = own.place - 0.5 * own.length;
      const double high = own.place + 0.5 * own.length;
      const double reach = std::max(slug.front, slug.front + slug.front_speed * dt);
      if (low > reach || !carries_slugs(i)) break;
      const auto overlap = [&](double from, double to) {
        return std::max(0.0, std::min(to, slug.front) - std::max(from, slug.tail));
      };
      in_slugs_[i] += overlap(low, high);
      const bool last = at + 1 == way_.size();
      const double beyond = last ? high : sections_[way_[at + 1]].place;
      covered_length_[i] += overlap(own.place, beyond) / (beyond - own.place);
      // From when to when the face at `high` lies in it.
      const auto reaches = [&](double place, double speed) {
        return place >= high ? 0.0 : speed > 0 ? (high - place) / speed : 1e300;
      };
      const double enters = reaches(slug.front, slug.front_speed);
      const double ends = reaches(slug.tail, slug.tail_speed);
      faces_[i].covered += std::max(0.0, std::min(dt, ends) - std::min(dt, enters)) / dt;
    }
  }
  for (std::size_t i = 0; i < sections_.size(); ++i) {
    in_slugs_[i] = std::min(in_slugs_[i], sections_[i].length);
    covered_length_[i] = std::min(covered_length_[i], 1.0);
    faces_[i].covered = std::min(faces_[i].covered, 1.0);
  }
}

void Model::move_slugs(double dt) {
  const double end = sections_[way_.back()].place + 0.5 * sections_[way_.back()].length;
  for (auto& slug : slugs_) {
    // The film that the front meets: near the end of a section that of the next one, as little is left of its own.
    std::size_t ahead = section_on_way(slug.front);
    constexpr double last_piece = 0.25;
    const auto& under = sections_[ahead];
    if (slug.front > under.place + (0.5 - last_piece) * under.length && under.next != Section::outlet)
      ahead = static_cast<std::size_t>(under.next);
    const std::size_t behind_it = section_on_way(slug.tail);
    const double j_front = flux_at(slug.front);
    const double j_tail = flux_at(slug.tail);
    // Speed at which a body with `held` takes in a film: (held j - film u) / (held - film).
    const auto by_mass = [&](std::size_t section, double flux) {
      const double held = slug_holdup(flux);
      const double film = film_holdup(section);
      const double u = faces_[section].covered < 0.5 ? state_.u_liquid[section] : flux;
      constexpr double least = 0.05;
      return (held * flux - film * u) / std::max(held - film, least);
    };
    const Drift drift = long_bubble_drift(sections_[behind_it].bore, media(behind_it), j_tail);
    const double bubble = drift.distribution * j_tail + drift.velocity;
    const double film_speed = faces_[behind_it].covered < 0.5 ? state_.u_liquid[behind_it] : j_tail;
    // Beyond the outlet, or in a riser, a front goes on with what has left, so that lengths stay known.
    slug.front_speed = slug.front >= end || !carries_slugs(ahead)
                           ? std::max(0.0, j_front)
                           : std::clamp(by_mass(ahead, j_front), -std::abs(j_front), 3 * std::abs(j_front) + 0.1);
    slug.tail_speed = film_speed > bubble ? std::min(by_mass(behind_it, j_tail), bubble) : bubble;
    slug.tail_speed = std::clamp(slug.tail_speed, -std::abs(j_tail), 3 * std::abs(j_tail) + 1.0);
    const double front = slug.front;
    const double tail = slug.tail;
    slug.front += slug.front_speed * dt;
    slug.tail = std::max(0.0, slug.tail + slug.tail_speed * dt);
    for (std::size_t w = 0; w < settings_.watched.size(); ++w) {
      const double place = settings_.watched[w];
      const auto time_of = [&](double from, double to) { return state_.time - dt * (to - place) / (to - from); };
      auto& there = at_places_[w];
      if (front < place && slug.front >= place) there.emplace_back(slug.number, time_of(front, slug.front));
      if (tail < place && slug.tail >= place) {
        const auto found =
            std::find_if(there.begin(), there.end(), [&](const auto& one) { return one.first == slug.number; });
        if (found != there.end()) {
          // One that has dissolved meanwhile has not passed.
          if (slug.tail < slug.front)
            passages_.push_back(
                {w, slug.number, found->second, time_of(tail, slug.tail), slug.front - place, slug.front_speed});
          there.erase(found);
        }
      }
    }
  }
}

/// No slug has more liquid than its sections hold; what overlaps joins; what is too short is film; what has left is
/// gone.
void Model::trim_slugs() {
  const double end = sections_[way_.back()].place + 0.5 * sections_[way_.back()].length;
  for (auto& slug : slugs_) {
    // The sections of its two ends alone can hold it in part.
    for (const bool at_front : {true, false}) {
      const std::size_t i = section_on_way(at_front ? slug.front : slug.tail);
      if (!carries_slugs(i) || (at_front && slug.front >= end)) continue;
      const auto& own = sections_[i];
      const double low = std::max(slug.tail, own.place - 0.5 * own.length);
      const double high = std::min(slug.front, own.place + 0.5 * own.length);
      const double most = holdup(i) * own.length / slug_holdup(flux_before(i));
      if (high - low > most)
        (at_front ? slug.front : slug.tail) += at_front ? most - (high - low) : (high - low) - most;
    }
  }
  for (std::size_t k = 0; k + 1 < slugs_.size();) {
    if (slugs_[k].front < slugs_[k + 1].tail) {
      ++k;
      continue;
    }
    slugs_[k].front = std::max(slugs_[k].front, slugs_[k + 1].front);
    slugs_[k].front_speed = slugs_[k + 1].front_speed;
    slugs_.erase(slugs_.begin() + static_cast<std::ptrdiff_t>(k) + 1);
  }
  std::erase_if(slugs_, [&](const Slug& slug) {
    return slug.tail >= end || !carries_slugs(section_on_way(slug.tail)) ||
           slug.length() < sections_[section_on_way(slug.tail)].bore.diameter;
  });
}

/// What lies on a section that has no liquid for it is no slug.
void Model::drop_slugs(std::size_t section) {
  const auto& own = sections_[section];
  std::erase_if(slugs_, [&](const Slug& slug) {
    return slug.tail < own.place + 0.5 * own.length && slug.front > own.place - 0.5 * own.length;
  });
}

void Model::add_slug(double tail, double front) {
  assert(tail < front);
  Slug slug;
  slug.number = ++born_;
  slug.tail = tail;
  slug.front = front;
  slug.born = state_.time;
  const auto at = std::find_if(slugs_.begin(), slugs_.end(), [&](const Slug& other) { return other.tail > tail; });
  slugs_.insert(at, slug);
}

/// Where the gas raises waves up to the top of a layer that is thick enough, or a section is full, and no slug is near.
/// Of the former one at a time, where the gas is most above what it takes: a line whose layers are unstable everywhere
/// would begin with a thousand slugs else, and gas shut in between them.
void Model::begin_slugs() {
  double most = 1;
  std::size_t most_unstable = sections_.size();
  for (const std::size_t i : way_) {
    const auto& own = sections_[i];
    const double D = own.bore.diameter;
    const double held = holdup(i);
    constexpr double thick = 0.25;
    if (held < thick || in_slugs_[i] > 0 || !carries_slugs(i)) continue;
    const double flux = flux_before(i);
    constexpr double slow = 0.1;  // [m/s]: what hardly moves is a puddle
    if (flux < slow) continue;
    constexpr double apart = 20;  // diameters
    // Not sooner after the last one than it takes to build up again.
    if (state_.time - last_begun_[i] < apart * D / flux) continue;
    const bool near = std::ranges::any_of(slugs_, [&](const Slug& slug) {
      return slug.tail < own.place + apart * D && slug.front > own.place - apart * D;
    });
    if (near) continue;
    constexpr double full = 0.98;
    if (held > full) {
      add_slug(own.place - 0.49 * own.length, own.place + 0.49 * own.length);
      last_begun_[i] = state_.time;
      continue;
    }
    if (own.bore.sine >= 0.26) continue;
    const double waves = std::abs(state_.u_gas[i] - state_.u_liquid[i]) / bridging_speed(own.bore, media(i), held);
    if (waves <= most) continue;
    most = waves;
    most_unstable = i;
  }
  if (most_unstable == sections_.size()) return;
  const auto& there = sections_[most_unstable];
  constexpr double first_length = 10;  // diameters
  const double half = 0.5 * std::min(first_length * there.bore.diameter, 0.5 * holdup(most_unstable) * there.length);
  add_slug(there.place - half, there.place + half);
  last_begun_[most_unstable] = state_.time;
}

namespace {

/// A list of which each entry is `width` numbers, as get(entry) gives and make(numbers) takes them.
template <class Entry, class Get, class Make>
void archive_list(Archive& a, const char* name, std::vector<Entry>& list, std::size_t width, Get&& get, Make&& make) {
  std::vector<double> numbers;
  for (const auto& entry : list) {
    const auto one = get(entry);
    numbers.insert(numbers.end(), one.begin(), one.end());
  }
  a(name, numbers);
  if (!a.reading()) return;
  list.clear();
  for (std::size_t i = 0; i + width <= numbers.size(); i += width) list.push_back(make(numbers.data() + i));
}

}  // namespace

void Model::archive_slugs(Archive& a) {
  archive_list(
      a, "slugs", slugs_, 6,
      [](const Slug& s) {
        return std::array{static_cast<double>(s.number), s.tail, s.front, s.tail_speed, s.front_speed, s.born};
      },
      [](const double* v) { return Slug{static_cast<long>(v[0]), v[1], v[2], v[3], v[4], v[5]}; });
  archive_list(
      a, "passages", passages_, 6,
      [](const Passage& p) {
        return std::array{
            static_cast<double>(p.place), static_cast<double>(p.slug), p.front_time, p.tail_time, p.length, p.speed};
      },
      [](const double* v) {
        return Passage{static_cast<std::size_t>(v[0]), static_cast<long>(v[1]), v[2], v[3], v[4], v[5]};
      });
  for (std::size_t w = 0; w < at_places_.size(); ++w)
    archive_list(
        a, ("on_place_" + std::to_string(w)).c_str(), at_places_[w], 2,
        [](const auto& one) {
          return std::array{static_cast<double>(one.first), one.second};
        },
        [](const double* v) {
          return std::pair{static_cast<long>(v[0]), v[1]};
        });
}

}  // namespace wavy::line
