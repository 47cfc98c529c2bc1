// Compares the program with the hand-written opponent, with mawk and with copying, each on the same files in
// one run: first that both give the same answer, then how long they take, by turns.
#include <fcntl.h>
#include <fmt/format.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <functional>
#include <sstream>
#include <string>
#include <utility>
#include <vector>

#include "same_values.h"

namespace {

using Args = std::vector<std::string>;

struct Measure {
  double seconds = 0;
  double processor = 0;  ///< seconds of all threads
  double megabytes = 0;  ///< the most memory that it had
};

// Whether a run computes SHA-256 digests; without them it is measured what they take.
enum class Digests : std::uint8_t { made, left_out };

// Runs a command to its end in a folder; the benchmark ends where one fails.
Measure run(const std::string& folder, const Args& args, Digests digests = Digests::made) {
  const auto begin = std::chrono::steady_clock::now();
  const pid_t child = fork();
  if (child == 0) {
    if (chdir(folder.c_str()) != 0) _exit(126);
    const int nothing = open("/dev/null", O_WRONLY);
    dup2(nothing, STDOUT_FILENO);
    if (digests == Digests::left_out) setenv("LD_PRELOAD", BENCH_NO_DIGESTS, 1);
    std::vector<char*> argv;
    for (const std::string& arg : args) argv.push_back(const_cast<char*>(arg.c_str()));
    argv.push_back(nullptr);
    execvp(argv[0], argv.data());
    _exit(127);
  }
  int status = 0;
  struct rusage usage {};
  wait4(child, &status, 0, &usage);
  const std::chrono::duration<double> time = std::chrono::steady_clock::now() - begin;
  if (!WIFEXITED(status) || WEXITSTATUS(status) != 0) {
    fmt::print(stderr, "{} failed\n", fmt::join(args, " "));
    std::exit(1);
  }
  const auto seconds = [](const timeval& t) {
    return static_cast<double>(t.tv_sec) + 1e-6 * static_cast<double>(t.tv_usec);
  };
  return {time.count(), seconds(usage.ru_utime) + seconds(usage.ru_stime),
          static_cast<double>(usage.ru_maxrss) / 1024};
}

std::string content(const std::string& path) {
  std::ifstream file(path, std::ios::binary);
  std::ostringstream text;
  text << file.rdbuf();
  return text.str();
}

double median(std::vector<double> values) {
  std::sort(values.begin(), values.end());
  return values[values.size() / 2];
}

// One comparison: what is measured in which file, and the two commands that make `results/run.csv` and
// `o.csv`.
struct Job {
  std::string name;
  std::size_t rows = 0;
  std::vector<Args> tables;  ///< for the generator: kind, file, rows, number
  std::string study;
  Args opponent;
  double goal = 0;  ///< of the ratio of the medians; 0 for none
};

class Bench {
 public:
  explicit Bench(std::string folder) : folder_(std::move(folder)) {}

  void compare(const Job& job) {
    prepare(job);
    const Args ours = {OPENSUM_PROGRAM, "run", "study.toml", "--quiet"};
    run(folder_, ours);
    run(folder_, job.opponent);
    const std::string difference =
        first_difference(content(folder_ + "/results/run.csv"), content(folder_ + "/o.csv"));
    if (!difference.empty()) {
      fmt::print("{}: the answers differ, {}\n", job.name, difference);
      failed_ = true;
      return;
    }
    constexpr int kTurns = 5;
    std::vector<double> own;
    std::vector<double> processor;
    std::vector<double> undigested;
    std::vector<double> other;
    double megabytes = 0;
    for (int turn = 0; turn < kTurns; ++turn) {
      const Measure measure = run(folder_, ours);
      own.push_back(measure.seconds);
      processor.push_back(measure.processor);
      undigested.push_back(run(folder_, ours, Digests::left_out).seconds);
      megabytes = std::max(megabytes, measure.megabytes);
      other.push_back(run(folder_, job.opponent).seconds);
    }
    double bytes = 0;
    for (const Args& table : job.tables)
      bytes += static_cast<double>(std::filesystem::file_size(folder_ + "/" + table[1]));
    fmt::print("{:<34} {:>9} {:>7.2f} {:>9.2f} {:>7.2f} {:>6.2f} {:>5} {:>7.2f} {:>8.2f} {:>8.0f} {:>8.0f}\n",
               job.name, job.rows, median(own), median(processor), median(other), median(own) / median(other),
               job.goal > 0 ? fmt::format("{:.1f}", job.goal) : "", median(undigested) / median(other),
               static_cast<double>(job.rows) / median(own) / 1e6, bytes / median(own) / 1e6, megabytes);
    std::fflush(stdout);
  }

  void prepare(const Job& job) {
    for (const Args& table : job.tables) {
      Args args = {BENCH_GENERATE};
      args.insert(args.end(), table.begin(), table.end());
      run(folder_, args);
    }
    std::ofstream(folder_ + "/study.toml") << job.study;
  }

  // The best of some turns of a command.
  Measure best_of(const Args& args, int turns) {
    Measure least = run(folder_, args);
    for (int turn = 1; turn < turns; ++turn) {
      const Measure measure = run(folder_, args);
      least.seconds = std::min(least.seconds, measure.seconds);
      least.megabytes = std::max(least.megabytes, measure.megabytes);
    }
    return least;
  }

  bool failed() const { return failed_; }

 private:
  std::string folder_;
  bool failed_ = false;
};

const char* const kFive =
    "[sheet.run]\ndata = 't.csv'\nequations = '''\n  v \"Speed\" [m/s] = a / b\n  w [kg m/s] = c * v\n"
    "  k [J] = 0.5 * c * v^2\n  t [K] = d - h\n  q [m^2] = a * e + sqrt(a * e)^2\n'''\n";

std::vector<Job> jobs(std::size_t rows) {
  const std::string n = std::to_string(rows);
  const std::string half = std::to_string(rows / 2);
  const std::string million = "1000000";
  return {
      {"8 columns to 5 derived",
       rows,
       {{"numbers", "t.csv", n}},
       kFive,
       {BENCH_OPPONENT, "numbers", "t.csv", "o.csv"},
       0.5},
      {"the same, every fifth cell null",
       rows / 2,
       {{"numbers", "t.csv", half, "5"}},
       kFive,
       {BENCH_OPPONENT, "nulls", "t.csv", "o.csv"},
       1},
      {"mostly text",
       rows / 2,
       {{"texts", "t.csv", half}},
       "[sheet.run]\ndata = 't.csv'\nequations = 'v [m/s] = x / y'\n",
       {BENCH_OPPONENT, "texts", "t.csv", "o.csv"},
       1},
      {"quoted fields",
       rows / 2,
       {{"texts", "t.csv", half, "1"}},
       "[sheet.run]\ndata = 't.csv'\nequations = 'v [m/s] = x / y'\n",
       {BENCH_OPPONENT, "quoted", "t.csv", "o.csv"},
       1},
      {"200 columns",
       rows / 20,
       {{"wide", "t.csv", std::to_string(rows / 20), "200"}},
       "[sheet.run]\ndata = 't.csv'\nequations = '''\n  mean [m] = row_mean(x0..x199)\n  sum [m] = "
       "row_sum(x0..x199)\n'''\n",
       {BENCH_OPPONENT, "wide", "t.csv", "o.csv"},
       1},
      {"means of 1000 groups",
       rows,
       {{"groups", "t.csv", n, "1000"}},
       "[sheet.run]\ndata = 't.csv'\nequations = 'm [m] = col_mean(x, by: g)'\n",
       {BENCH_OPPONENT, "groups", "t.csv", "o.csv"},
       1},
      {"a link to a million keys",
       rows,
       {{"keyed", "keys.csv", million}, {"seekers", "t.csv", n, million}},
       "[sheet.keys]\ndata = 'keys.csv'\nwrite = []\n[sheet.run]\ndata = 't.csv'\nlink.keys = { match = "
       "'code' }\n"
       "equations = 'p [kg m] = keys.mass * n'\n",
       {BENCH_OPPONENT, "link", "keys.csv", "t.csv", "o.csv"},
       1},
      {"interpolation in a million rows",
       rows / 2,
       {{"property", "keys.csv", million}, {"between", "t.csv", half, million}},
       "[sheet.keys]\ndata = 'keys.csv'\nwrite = []\n[sheet.run]\ndata = 't.csv'\n"
       "link.keys = { match = 't', how = 'interpolate' }\nequations = 'm [kg] = keys.rho * v'\n",
       {BENCH_OPPONENT, "between", "keys.csv", "t.csv", "o.csv"},
       1},
  };
}

// A workbook against unpacking it.
void workbook(Bench& bench, const std::string& folder) {
  const std::string study = std::string(kFive).replace(std::string(kFive).find("t.csv"), 5, "t.xlsx#t");
  bench.prepare({"", 100'000, {{"numbers", "t.csv", "100000"}}, study, {}, 0});
  run(folder, {OPENSUM_PROGRAM, "derive", "t.csv", "sum [m] = a + e", "--output", "t.xlsx", "--force"});
  const Measure ours = bench.best_of({OPENSUM_PROGRAM, "run", "study.toml", "--quiet"}, 5);
  const double unpacking = bench.best_of({"sh", "-c", "unzip -p t.xlsx > o.csv"}, 5).seconds;
  fmt::print(
      "a workbook of 100000 rows of 9 columns: {:.2f} s, {:.1f} times as long as unpacking it, {:.0f} MB\n",
      ours.seconds, ours.seconds / unpacking, ours.megabytes);
}

void compare_all(const std::string& folder, std::size_t rows, bool& failed) {
  Bench bench(folder);
  fmt::print(
      "{} cores; medians of seconds of wall time (and of processor time of all threads); ours against one "
      "hand-written "
      "thread, by turns, five of each; `no SHA`: the ratio where digests are left out\n\n",
      sysconf(_SC_NPROCESSORS_ONLN));
  fmt::print("{:<34} {:>9} {:>7} {:>9} {:>7} {:>6} {:>5} {:>7} {:>8} {:>8} {:>8}\n", "case", "rows", "ours",
             "processor", "other", "ratio", "goal", "no SHA", "Mrows/s", "MB/s", "peak MB");
  for (const Job& job : jobs(rows)) bench.compare(job);
  // Against the common tool for such work, and against copying.
  bench.prepare({"", rows, {{"numbers", "t.csv", std::to_string(rows)}}, kFive, {}, 0});
  const double ours = bench.best_of({OPENSUM_PROGRAM, "run", "study.toml", "--quiet"}, 5).seconds;
  const double mawk = bench
                          .best_of({"sh", "-c",
                                    "mawk -F, 'NR > 1 { v = $1 / $2; printf "
                                    "\"%s,%.12g,%.12g,%.12g,%.12g,%.12g\\n\", $0, v, $3 * v, "
                                    "0.5 * $3 * v * v, $4 - $8, $1 * $5 + $1 * $5 }' t.csv > o.csv"},
                                   2)
                          .seconds;
  const double copy = bench.best_of({"sh", "-c", "cat t.csv > o.csv"}, 5).seconds;
  fmt::print("\n{} rows: mawk takes {:.1f} times as long, copying the file {:.2f} of our time\n", rows,
             mawk / ours, copy / ours);
  workbook(bench, folder);
  run(folder, {OPENSUM_PROGRAM, "demo"});
  const Args check = {OPENSUM_PROGRAM, "check", "opensum-demo/study.toml"};
  const Args demo = {OPENSUM_PROGRAM, "run", "opensum-demo/study.toml", "--quiet"};
  fmt::print("check of the demo {:.0f} ms, its run with figures and report {:.2f} s\n",
             1e3 * bench.best_of(check, 10).seconds, bench.best_of(demo, 5).seconds);
  failed = bench.failed();
}

// The exponent of a power law through two measures.
double exponent(double less, double more, double factor) { return std::log(more / less) / std::log(factor); }

// A file that no memory needs to hold.
void large(const std::string& folder) {
  constexpr std::size_t kRows = 50'000'000;
  Bench bench(folder);
  bench.prepare({"", kRows, {{"numbers", "t.csv", std::to_string(kRows)}}, kFive, {}, 0});
  const Measure ours = run(folder, {OPENSUM_PROGRAM, "run", "study.toml", "--quiet"});
  const auto bytes = static_cast<double>(std::filesystem::file_size(folder + "/t.csv"));
  fmt::print("{} rows, {:.2f} GB: {:.0f} s, {:.2f} million rows/s, {:.0f} MB/s, peak {:.0f} MB\n", kRows,
             bytes / 1e9, ours.seconds, static_cast<double>(kRows) / ours.seconds / 1e6,
             bytes / ours.seconds / 1e6, ours.megabytes);
}

// The most memory of each command for a table of a million rows of four numbers and a text.
void memory(const std::string& folder) {
  constexpr std::size_t kRows = 1'000'000;
  std::ofstream table(folder + "/t.csv");
  table << "a [m],b [s],c [kg],d [V],site\n";
  for (std::size_t row = 0; row < kRows; ++row) {
    table << fmt::format("{}.{:03},{}.{:03},{}.{:03},{:.4f},s{}\n", row * 7919 % 100, row * 31 % 1000,
                         row % 49 + 1, row * 17 % 1000, row % 9, row * 7 % 1000,
                         5 + std::sin(static_cast<double>(row)), row % 40);
  }
  table.close();
  const std::string sheet = "[sheet.t]\ndata = 't.csv'\n";
  const std::string ratio = "equations = 'r = a / b'\n";
  const auto written = [&](const std::string& format) {
    return "write = ['" + format + "']\n" + sheet + ratio;
  };
  const std::string fit = "[fit.f]\nx = 'a'\ny = 'b'\n";
  const std::vector<std::pair<std::string, std::string>> studies = {
      {"two equations row by row", sheet + "equations = '''\n r = a / b\n s = a * c\n'''\n"},
      {"a median by groups", sheet + "equations = 'r = a / col_median(a, by: site)'\n"},
      {"area_so_far and col_mean",
       sheet + "equations = '''\n r = area_so_far(a, along: row_number())\n m = col_mean(a)\n'''\n"},
      {"sort_by", sheet + "sort_by = ['a']\n" + ratio},
      {"rows_of, two columns", sheet + "[sheet.u]\nrows_of = 't'\ntake = ['a', 'b']\n" + ratio},
      {"rows_of, all columns", sheet + "[sheet.u]\nrows_of = 't'\nkeep = 'a > 20 [m]'\n" + ratio},
      {"a link by rows",
       sheet + "link.u = { how = 'row' }\nequations = 'r = a / u.b'\n[sheet.u]\ndata = 't.csv'\n"},
      {"XLSX", written("xlsx")},
      {"ODS", written("ods")},
      {"netCDF", written("nc")},
      {"JSON", written("json")},
      {"JSON lines", written("jsonl")},
      {"SQLite", written("sqlite")},
      {"a fit of a line", sheet + ratio + fit},
      {"a fit of an equation",
       sheet + ratio + fit + "model = 'p + q * x'\nstart = { p = '20 s', q = '0 s/m' }\n"},
      {"a plot", sheet + ratio + "[plot.p]\nx = 'a'\ny = 'r'\n"}};
  for (const auto& [name, study] : studies) {
    std::ofstream(folder + "/study.toml") << study;
    fmt::print("run, {:<28} {:>6.0f} MB\n", name,
               run(folder, {OPENSUM_PROGRAM, "run", "study.toml", "--quiet"}).megabytes);
    std::fflush(stdout);
  }
  std::ofstream(folder + "/study.toml") << sheet << ratio;
  const std::vector<Args> commands = {{"check", "study.toml"},
                                      {"explain", "t.r", "--row", "500000", "--study", "study.toml"},
                                      {"look", "t.csv"},
                                      {"new", "t.csv", "--output", "new.toml"},
                                      {"derive", "t.csv", "r = a / b", "--output", "d.csv"},
                                      {"derive", "t.csv", "r = a / b", "--output", "d.xlsx"},
                                      {"derive", "t.csv", "r = a / b", "--output", "d.ods"}};
  for (const Args& command : commands) {
    Args all = {OPENSUM_PROGRAM};
    all.insert(all.end(), command.begin(), command.end());
    fmt::print("{:<33} {:>6.0f} MB\n", fmt::format("{} {}", command[0], command.back()),
               run(folder, all).megabytes);
    std::fflush(stdout);
  }
}

void growth(const std::string& folder) {
  Bench bench(folder);
  const Args ours = {OPENSUM_PROGRAM, "run", "study.toml", "--quiet"};
  fmt::print("{:>9} rows {:>10} s {:>10} MB   exponents of time and memory from the line before\n", "", "",
             "");
  Measure before;
  for (std::size_t rows = 1000; rows <= 10'000'000; rows *= 10) {
    bench.prepare({"", rows, {{"numbers", "t.csv", std::to_string(rows)}}, kFive, {}, 0});
    const Measure now = bench.best_of(ours, rows > 1'000'000 ? 1 : 3);
    fmt::print("{:>9}      {:>10.3f}   {:>10.1f}   ", rows, now.seconds, now.megabytes);
    if (rows > 1000)
      fmt::print("{:.2f} {:.2f}", exponent(before.seconds, now.seconds, 10),
                 exponent(before.megabytes, now.megabytes, 10));
    fmt::print("\n");
    std::fflush(stdout);
    before = now;
  }
  for (std::size_t columns = 10; columns <= 1000; columns *= 10) {
    bench.prepare({"",
                   10000,
                   {{"wide", "t.csv", "10000", std::to_string(columns)}},
                   fmt::format("[sheet.run]\ndata = 't.csv'\nequations = 'mean [m] = row_mean(x0..x{})'\n",
                               columns - 1),
                   {},
                   0});
    const Measure now = bench.best_of(ours, 3);
    fmt::print("{:>6} columns   {:>10.3f}   {:>10.1f}   ", columns, now.seconds, now.megabytes);
    if (columns > 10)
      fmt::print("{:.2f} {:.2f}", exponent(before.seconds, now.seconds, 10),
                 exponent(before.megabytes, now.megabytes, 10));
    fmt::print("\n");
    before = now;
  }
}

}  // namespace

int main(int argc, char** argv) {
  if (argc < 2) {
    std::fputs("bench_compare FOLDER [ROWS | --growth | --large | --memory]\n", stderr);
    return 2;
  }
  const std::string what = argc > 2 ? argv[2] : "2000000";
  bool failed = false;
  if (what == "--growth") {
    growth(argv[1]);
  } else if (what == "--large") {
    large(argv[1]);
  } else if (what == "--memory") {
    memory(argv[1]);
  } else {
    compare_all(argv[1], static_cast<std::size_t>(std::atoll(what.c_str())), failed);
  }
  return failed ? 1 : 0;
}
