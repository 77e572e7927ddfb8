// Makes damaged variants of a file's content: the same ones for the same seed.
#pragma once

#include <array>
#include <cstring>
#include <random>
#include <string>
#include <string_view>
#include <vector>

namespace attack {

class Mutator {
 public:
  explicit Mutator(std::uint64_t seed) : random_(seed) {}

  /// A variant of one of the samples with one to six changes; `text`: lines and words are changed too.
  std::string operator()(const std::vector<std::string>& samples, bool text) {
    std::string content = samples[below(samples.size())];
    const std::size_t changes = 1 + below(6);
    for (std::size_t n = 0; n < changes; ++n) {
      if (text && below(4) != 0)
        change_words(content, samples);
      else
        change_bytes(content);
    }
    return content;
  }
  std::size_t below(std::size_t end) { return end == 0 ? 0 : random_() % end; }

 private:
  void change_bytes(std::string& s) {
    if (s.empty()) return;
    const std::size_t at = below(s.size());
    switch (below(8)) {
      case 0:
        s[at] = static_cast<char>(static_cast<unsigned char>(s[at]) ^ (1U << below(8)));
        break;
      case 1:
        s[at] = static_cast<char>(below(256));
        break;
      case 2:
        s.resize(at);
        break;
      case 3:
        s.erase(at, 1 + below(40));
        break;
      case 4:
        s.insert(at, s.substr(below(s.size()), 1 + below(60)));
        break;
      case 5: {  // a number of four or eight bytes becomes an extreme one
        static constexpr std::array<std::uint64_t, 8> extremes{
            0, 1, 0x7fffffffU, 0xffffffffU, 0x80000000U, 0x7ff0000000000000U, 0x7ff8000000000000U, ~0ULL};
        const std::uint64_t value = extremes[below(extremes.size())];
        const std::size_t size = below(2) == 0 ? 4 : 8;
        if (at + size <= s.size()) std::memcpy(s.data() + at, &value, size);
        break;
      }
      case 6:
        std::swap(s[at], s[below(s.size())]);
        break;
      default:
        s.insert(at, std::string(1 + below(3), static_cast<char>(below(256))));
    }
  }

  void change_words(std::string& s, const std::vector<std::string>& samples) {
    static const std::vector<std::string> words{"0",
                                                "-1",
                                                "1e308",
                                                "-1e308",
                                                "1e-320",
                                                "nan",
                                                "inf",
                                                "1e400",
                                                "99999999999999999999",
                                                "\"\"",
                                                "\"0 m\"",
                                                "\"1e9 m\"",
                                                "[]",
                                                "[[]]",
                                                "{}",
                                                "true",
                                                "\"1 kg\"",
                                                "\"-3 mm\"",
                                                "\"nan m\"",
                                                "\"t\"",
                                                "\"1/0 m\"",
                                                "\"x*y\"",
                                                "\"sqrt(-1 m)\"",
                                                "1979-05-27",
                                                "\"\\u0000\"",
                                                "-0",
                                                "\"1 m",
                                                "\"1e-30 m\"",
                                                "\"1 m * \"",
                                                "((((((((",
                                                "\"9e99 s\"",
                                                "\"2 2 m\"",
                                                "1.5",
                                                "\"air\"",
                                                "\"water\"",
                                                "\"line\""};
    std::vector<std::size_t> starts{0};  // of lines
    for (std::size_t i = 0; i + 1 < s.size(); ++i)
      if (s[i] == '\n') starts.push_back(i + 1);
    const auto line_at = [&](std::size_t k) {
      const std::size_t from = starts[k];
      const std::size_t end = k + 1 < starts.size() ? starts[k + 1] : s.size();
      return std::pair{from, end - from};
    };
    const auto [from, length] = line_at(below(starts.size()));
    switch (below(7)) {
      case 0:
        s.erase(from, length);
        break;
      case 1:
        s.insert(from, s.substr(from, length));
        break;
      case 2: {  // a line from another sample
        const std::string& other = samples[below(samples.size())];
        const std::size_t at = other.empty() ? 0 : other.rfind('\n', below(other.size()));
        const std::size_t begin = at == std::string::npos ? 0 : at;
        s.insert(from, other.substr(begin, other.find('\n', begin + 1) - begin) + "\n");
        break;
      }
      case 3: {  // all behind a sign of equality or a comma becomes a word
        const std::size_t sign = s.find_first_of("=,", from);
        if (sign == std::string::npos || sign > from + length) break;
        const std::size_t end = std::min(s.find_first_of(",\n]", sign + 1), s.size());
        s.replace(sign + 1, end - sign - 1, " " + words[below(words.size())]);
        break;
      }
      case 4: {  // one number becomes another
        const std::size_t digit = s.find_first_of("0123456789", from);
        if (digit == std::string::npos) break;
        const std::size_t end = std::min(s.find_first_not_of("0123456789.eE+-", digit), s.size());
        static const std::vector<std::string> numbers{"0", "-1",  "1e9",  "1e-9",   "1e300",
                                                      "7", "0.5", "1e30", "-0.001", "3e5"};
        s.replace(digit, end - digit, numbers[below(numbers.size())]);
        break;
      }
      case 5:
        s.insert(from, s.substr(0, below(s.size())));
        break;
      default: {
        const auto [other, other_length] = line_at(below(starts.size()));
        const std::string moved = s.substr(other, other_length);
        s.insert(from, moved);
      }
    }
    constexpr std::size_t longest = 200000;
    if (s.size() > longest) s.resize(longest);
  }

  std::mt19937_64 random_;
};

}  // namespace attack
