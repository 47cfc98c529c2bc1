// The honest opponent of the benchmarks: one thread, written by hand for each job and for nothing else. It
// maps the file, reads numbers with std::from_chars, which also finds where they end, copies lines as a
// whole, writes numbers with std::to_chars into a buffer that stays in the cache, and writes that out as it
// fills. It checks nothing: no units, no nulls but empty cells, no quotes but where the job has them.
#include <fcntl.h>
#include <sys/mman.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <string>
#include <string_view>
#include <unordered_map>
#include <vector>

namespace {

std::string_view mapped(const char* path) {
  const int file = open(path, O_RDONLY);
  struct stat status {};
  if (file < 0 || fstat(file, &status) != 0) std::exit(1);
  const auto size = static_cast<std::size_t>(status.st_size);
  void* bytes = mmap(nullptr, size, PROT_READ, MAP_PRIVATE | MAP_POPULATE, file, 0);
  close(file);
  return {static_cast<const char*>(bytes), size};
}

// The output: a buffer that is written whenever it is nearly full.
class Buffer {
 public:
  explicit Buffer(const char* path) : file_(open(path, O_WRONLY | O_CREAT | O_TRUNC, 0666)) {
    if (file_ < 0) std::exit(1);
  }
  ~Buffer() {
    flush();
    close(file_);
  }
  Buffer(const Buffer&) = delete;
  Buffer& operator=(const Buffer&) = delete;

  // Makes sure that so many bytes can be put.
  void room(std::size_t bytes) {
    if (used_ + bytes > kBytes) flush();
  }
  void put(char c) { bytes_[used_++] = c; }
  void put(std::string_view text) {
    std::memcpy(bytes_.data() + used_, text.data(), text.size());
    used_ += text.size();
  }
  void put(double value) {
    used_ = static_cast<std::size_t>(
        std::to_chars(bytes_.data() + used_, bytes_.data() + kBytes, value, std::chars_format::general, 12)
            .ptr -
        bytes_.data());
  }

 private:
  static constexpr std::size_t kBytes = 256U << 10U;

  void flush() {
    for (std::size_t at = 0; at < used_;) {
      const ssize_t written = ::write(file_, bytes_.data() + at, used_ - at);
      if (written <= 0) std::exit(1);
      at += static_cast<std::size_t>(written);
    }
    used_ = 0;
  }

  int file_;
  std::vector<char> bytes_ = std::vector<char>(kBytes);
  std::size_t used_ = 0;
};

// Walks over the lines and fields of a text.
class Reader {
 public:
  explicit Reader(std::string_view text) : at_(text.data()), end_(text.data() + text.size()) {}
  bool more() const { return at_ < end_; }
  std::string_view line() {
    const char* begin = at_;
    const auto* stop = static_cast<const char*>(std::memchr(at_, '\n', static_cast<std::size_t>(end_ - at_)));
    at_ = stop == nullptr ? end_ : stop + 1;
    return {begin, static_cast<std::size_t>((stop == nullptr ? end_ : stop) - begin)};
  }
  std::string_view field() {
    const char* begin = at_;
    while (*at_ != ',' && *at_ != '\n') ++at_;
    return {begin, static_cast<std::size_t>(at_++ - begin)};
  }
  // A number and the separator after it; 0 for an empty field.
  double number() {
    double value = 0;
    at_ = std::from_chars(at_, end_, value).ptr + 1;
    return value;
  }
  bool at_separator() const { return *at_ == ',' || *at_ == '\n'; }
  const char* place() const { return at_; }
  // The text from a place to the line end that was passed last.
  std::string_view since(const char* begin) const {
    return {begin, static_cast<std::size_t>(at_ - begin) - 1};
  }
  std::string_view quoted_field() {
    if (*at_ != '"') return field();
    const char* begin = ++at_;
    while (*at_ != '"') ++at_;
    const std::string_view text{begin, static_cast<std::size_t>(at_ - begin)};
    at_ += 2;
    return text;
  }

 private:
  const char* at_;
  const char* end_;
};

// Eight columns to five derived ones; with `nulls`, an empty cell makes empty what is computed from it.
void numbers(const char* in, const char* out, bool nulls) {
  Reader reader(mapped(in));
  Buffer buffer(out);
  reader.line();
  buffer.put(std::string_view(
      "a [m],b [s],c [kg],d [K],e [m],f [s],g [kg],h [K],Speed [m/s],w [kg m/s],k [J],t [K],q [m^2]\n"));
  double x[8];
  bool no[8] = {};
  while (reader.more()) {
    buffer.room(512);
    const char* line = reader.place();
    for (int i = 0; i < 8; ++i) {
      if (nulls) no[i] = reader.at_separator();
      x[i] = reader.number();
    }
    buffer.put(reader.since(line));
    buffer.put(',');
    const double v = x[0] / x[1];
    const double ae = x[0] * x[4];
    const double derived[5] = {v, x[2] * v, 0.5 * x[2] * (v * v), x[3] - x[7],
                               ae + std::sqrt(ae) * std::sqrt(ae)};
    const bool null[5] = {no[0] || no[1], no[0] || no[1] || no[2], no[0] || no[1] || no[2], no[3] || no[7],
                          no[0] || no[4]};
    for (int i = 0; i < 5; ++i) {
      if (!null[i]) buffer.put(derived[i]);
      buffer.put(i == 4 ? '\n' : ',');
    }
  }
}

void texts(const char* in, const char* out, bool quoted) {
  Reader reader(mapped(in));
  Buffer buffer(out);
  reader.line();
  buffer.put(std::string_view("sample,site,operator,remark,x [m],y [s],v [m/s]\n"));
  while (reader.more()) {
    buffer.room(1024);
    for (int i = 0; i < 4; ++i) {
      const std::string_view text = quoted ? reader.quoted_field() : reader.field();
      const bool needs = quoted && text.find_first_of(",\"\n") != std::string_view::npos;
      if (needs) buffer.put('"');
      buffer.put(text);
      if (needs) buffer.put('"');
      buffer.put(',');
    }
    const char* numbers = reader.place();
    const double x = reader.number();
    const double y = reader.number();
    buffer.put(reader.since(numbers));
    buffer.put(',');
    buffer.put(x / y);
    buffer.put('\n');
  }
}

void wide(const char* in, const char* out) {
  Reader reader(mapped(in));
  Buffer buffer(out);
  const std::string_view header = reader.line();
  const auto columns = static_cast<std::size_t>(std::count(header.begin(), header.end(), ',')) + 1;
  buffer.room(header.size() + 64);
  buffer.put(header);
  buffer.put(std::string_view(",mean [m],sum [m]\n"));
  while (reader.more()) {
    buffer.room(columns * 32);
    const char* line = reader.place();
    double sum = 0;
    for (std::size_t i = 0; i < columns; ++i) sum += reader.number();
    buffer.put(reader.since(line));
    buffer.put(',');
    buffer.put(sum / static_cast<double>(columns));
    buffer.put(',');
    buffer.put(sum);
    buffer.put('\n');
  }
}

// The mean of each group beside every row.
void groups(const char* in, const char* out) {
  const std::string_view text = mapped(in);
  Reader reader(text);
  reader.line();
  std::unordered_map<std::string_view, std::size_t> index;
  std::vector<double> sums;
  std::vector<double> counts;
  std::vector<std::size_t> group_of;
  while (reader.more()) {
    const std::string_view group = reader.field();
    const double x = reader.number();
    const auto found = index.try_emplace(group, sums.size()).first;
    if (found->second == sums.size()) {
      sums.push_back(0);
      counts.push_back(0);
    }
    sums[found->second] += x;
    counts[found->second] += 1;
    group_of.push_back(found->second);
  }
  Reader again(text);
  Buffer buffer(out);
  again.line();
  buffer.put(std::string_view("g,x [m],m [m]\n"));
  for (std::size_t row = 0; again.more(); ++row) {
    buffer.room(256);
    buffer.put(again.line());
    buffer.put(',');
    buffer.put(sums[group_of[row]] / counts[group_of[row]]);
    buffer.put('\n');
  }
}

// A value looked up by a key.
void link(const char* table, const char* in, const char* out) {
  Reader keys(mapped(table));
  keys.line();
  std::unordered_map<std::string_view, double> masses;
  masses.reserve(1U << 20U);
  while (keys.more()) {
    const std::string_view key = keys.field();
    masses.emplace(key, keys.number());
  }
  Reader reader(mapped(in));
  Buffer buffer(out);
  reader.line();
  buffer.put(std::string_view("code,n [m],p [kg m]\n"));
  while (reader.more()) {
    buffer.room(256);
    const char* line = reader.place();
    const std::string_view key = reader.field();
    const double n = reader.number();
    buffer.put(reader.since(line));
    buffer.put(',');
    buffer.put(masses.at(key) * n);
    buffer.put('\n');
  }
}

// A value between two lines of a table that is sorted.
void between(const char* table, const char* in, const char* out) {
  Reader lines(mapped(table));
  lines.line();
  std::vector<double> t;
  std::vector<double> rho;
  while (lines.more()) {
    t.push_back(lines.number());
    rho.push_back(lines.number());
  }
  Reader reader(mapped(in));
  Buffer buffer(out);
  reader.line();
  buffer.put(std::string_view("t [K],v [m^3],m [kg]\n"));
  while (reader.more()) {
    buffer.room(256);
    const char* line = reader.place();
    const double x = reader.number();
    const double v = reader.number();
    const auto above = static_cast<std::size_t>(std::upper_bound(t.begin(), t.end(), x) - t.begin());
    const std::size_t i = above == t.size() ? t.size() - 2 : above - 1;
    const double part = (x - t[i]) / (t[i + 1] - t[i]);
    buffer.put(reader.since(line));
    buffer.put(',');
    buffer.put((rho[i] + (rho[i + 1] - rho[i]) * part) * v);
    buffer.put('\n');
  }
}

}  // namespace

int main(int argc, char** argv) {
  const std::string_view job = argc > 3 ? argv[1] : "";
  if (job == "numbers" || job == "nulls") {
    numbers(argv[2], argv[3], job == "nulls");
  } else if (job == "texts" || job == "quoted") {
    texts(argv[2], argv[3], job == "quoted");
  } else if (job == "wide") {
    wide(argv[2], argv[3]);
  } else if (job == "groups") {
    groups(argv[2], argv[3]);
  } else if (job == "link" && argc > 4) {
    link(argv[2], argv[3], argv[4]);
  } else if (job == "between" && argc > 4) {
    between(argv[2], argv[3], argv[4]);
  } else {
    std::fputs("opponent JOB [TABLE] FILE OUTPUT\n", stderr);
    return 2;
  }
  return 0;
}
