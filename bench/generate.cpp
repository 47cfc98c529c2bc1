// Writes the tables that the benchmarks read. The same arguments give the same bytes.
#include <fmt/format.h>

#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <string>

namespace {

// A simple generator of even numbers (Steele, Lea and Flood 2014), the same on every machine.
class Random {
 public:
  std::uint64_t next() {
    std::uint64_t z = state_ += 0x9e3779b97f4a7c15U;
    z = (z ^ (z >> 30U)) * 0xbf58476d1ce4e5b9U;
    z = (z ^ (z >> 27U)) * 0x94d049bb133111ebU;
    return z ^ (z >> 31U);
  }
  double between(double low, double high) {
    return low + (high - low) * static_cast<double>(next() >> 11U) * 0x1p-53;
  }

 private:
  std::uint64_t state_ = 1;
};

class Writer {
 public:
  explicit Writer(const char* path) : file_(std::fopen(path, "wb")) {
    if (file_ == nullptr) std::exit(1);
  }
  ~Writer() {
    flush();
    std::fclose(file_);
  }
  Writer(const Writer&) = delete;
  Writer& operator=(const Writer&) = delete;

  template <typename... Values>
  void put(fmt::format_string<Values...> format, Values&&... values) {
    fmt::format_to(std::back_inserter(buffer_), format, std::forward<Values>(values)...);
    if (buffer_.size() > 1U << 20U) flush();
  }

 private:
  void flush() {
    std::fwrite(buffer_.data(), 1, buffer_.size(), file_);
    buffer_.clear();
  }

  std::FILE* file_;
  fmt::memory_buffer buffer_;
};

// Eight columns of numbers with four decimals; every `nulls`-th cell is empty, never where it is 0.
void numbers(Writer& out, std::size_t rows, std::size_t nulls) {
  constexpr double kScale[] = {10, 100, 1, 1000, 5, 50, 2, 20};
  Random random;
  out.put("a [m],b [s],c [kg],d [K],e [m],f [s],g [kg],h [K]\n");
  for (std::size_t row = 0; row < rows; ++row) {
    for (std::size_t column = 0; column < 8; ++column) {
      const double value = random.between(kScale[column] / 10, kScale[column]);
      if (column > 0) out.put(",");
      if (nulls == 0 || random.next() % nulls != 0) out.put("{:.4f}", value);
    }
    out.put("\n");
  }
}

// Two numbers among texts; every third text is quoted where `quoted`.
void texts(Writer& out, std::size_t rows, bool quoted) {
  Random random;
  out.put("sample,site,operator,remark,x [m],y [s]\n");
  for (std::size_t row = 0; row < rows; ++row) {
    const std::uint64_t draw = random.next();
    const char* quote = quoted && draw % 3 == 0 ? "\"" : "";
    out.put("S-{:07},station {},{}{}{}lab {}{},{}as {} found{},{:.4f},{:.4f}\n", row, draw % 40,
            quoted ? "\"" : "", draw % 11, quoted ? ", " : " in ", draw % 7, quoted ? "\"" : "", quote,
            draw % 1000, quote, random.between(1, 10), random.between(1, 100));
  }
}

void wide(Writer& out, std::size_t rows, std::size_t columns) {
  Random random;
  for (std::size_t column = 0; column < columns; ++column)
    out.put("{}x{} [m]", column == 0 ? "" : ",", column);
  out.put("\n");
  for (std::size_t row = 0; row < rows; ++row) {
    for (std::size_t column = 0; column < columns; ++column)
      out.put("{}{:.3f}", column == 0 ? "" : ",", random.between(0, 100));
    out.put("\n");
  }
}

// A key that is unique, scattered over the rows, and a value.
void keyed(Writer& out, std::size_t rows) {
  Random random;
  out.put("code,mass [kg]\n");
  for (std::size_t row = 0; row < rows; ++row)
    out.put("K{:08},{:.4f}\n", (row * 7919) % rows, random.between(1, 10));
}

// Rows that look up such keys.
void seekers(Writer& out, std::size_t rows, std::size_t keys) {
  Random random;
  out.put("code,n [m]\n");
  for (std::size_t row = 0; row < rows; ++row)
    out.put("K{:08},{:.4f}\n", random.next() % keys, random.between(1, 10));
}

// An increasing property, and rows that look between its lines.
void property(Writer& out, std::size_t rows) {
  out.put("t [K],rho [kg/m^3]\n");
  for (std::size_t row = 0; row < rows; ++row)
    out.put("{:.4f},{:.4f}\n", static_cast<double>(row) * 0.01, 1000 - static_cast<double>(row) * 1e-4);
}

void between(Writer& out, std::size_t rows, std::size_t lines) {
  Random random;
  out.put("t [K],v [m^3]\n");
  for (std::size_t row = 0; row < rows; ++row)
    out.put("{:.5f},{:.4f}\n", random.between(0, static_cast<double>(lines - 1) * 0.01),
            random.between(1, 10));
}

// A group and a value.
void groups(Writer& out, std::size_t rows, std::size_t count) {
  Random random;
  out.put("g,x [m]\n");
  for (std::size_t row = 0; row < rows; ++row)
    out.put("g{},{:.4f}\n", random.next() % count, random.between(1, 100));
}

}  // namespace

int main(int argc, char** argv) {
  if (argc < 4) {
    std::fputs("generate KIND FILE ROWS [NUMBER]\n", stderr);
    return 2;
  }
  const std::string kind = argv[1];
  const auto rows = static_cast<std::size_t>(std::atoll(argv[3]));
  const std::size_t number = argc > 4 ? static_cast<std::size_t>(std::atoll(argv[4])) : 0;
  Writer out(argv[2]);
  if (kind == "numbers") {
    numbers(out, rows, number);
  } else if (kind == "texts") {
    texts(out, rows, number != 0);
  } else if (kind == "wide") {
    wide(out, rows, number);
  } else if (kind == "keyed") {
    keyed(out, rows);
  } else if (kind == "seekers") {
    seekers(out, rows, number);
  } else if (kind == "property") {
    property(out, rows);
  } else if (kind == "between") {
    between(out, rows, number);
  } else if (kind == "groups") {
    groups(out, rows, number);
  } else {
    return 2;
  }
  return 0;
}
