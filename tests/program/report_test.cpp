// The report page of the demo, opened in a browser without a screen.
#include <gtest/gtest.h>

#include <array>
#include <cstdio>
#include <nlohmann/json.hpp>
#include <set>

#include "program/program.h"

namespace opensum {
namespace {

// What the browser is asked about the page: the test's own script, which the page itself does without.
const char* const kQuestions = R"js(<script>
window.addEventListener('load', () => {
  const found = { width: innerWidth, overflow: document.documentElement.scrollWidth - document.documentElement.clientWidth,
                  loaded: performance.getEntriesByType('resource').map(e => e.name), faults: [] };
  const fault = text => found.faults.push(text);
  if (!document.documentElement.lang) fault('no language');
  if (!document.title) fault('no title');
  if (document.querySelectorAll('h1').length !== 1) fault('not one h1');
  let level = 0;
  for (const h of document.querySelectorAll('h1,h2,h3,h4')) {
    const own = +h.tagName[1];
    if (own > level + 1) fault('heading skips a level: ' + h.textContent);
    level = own;
    if (!h.textContent.trim()) fault('empty heading');
    if (own > 1 && !h.querySelector('a[href^="#"]')) fault('heading without link: ' + h.textContent);
  }
  for (const a of document.querySelectorAll('a')) {
    if (!a.textContent.trim()) fault('link without words');
    if (!document.getElementById(a.getAttribute('href').slice(1))) fault('link to nowhere: ' + a.href);
  }
  const ids = [...document.querySelectorAll('[id]')].map(e => e.id);
  if (new Set(ids).size !== ids.length) fault('an id twice');
  for (const s of document.querySelectorAll('svg'))
    if (!s.closest('[role=img][aria-label]')) fault('picture without words');
  for (const t of document.querySelectorAll('th')) if (!t.scope) fault('header cell without scope');
  for (const s of document.querySelectorAll('.scroll'))
    if (s.tabIndex !== 0 || !s.getAttribute('aria-label')) fault('scrolling part that the keyboard does not reach');
  for (const m of document.querySelectorAll('math')) if (m.getBoundingClientRect().width < 5) fault('mathematics not drawn');
  const luminance = c => {
    const v = c.match(/[\d.]+/g).slice(0, 3).map(x => x / 255).map(x => x <= .03928 ? x / 12.92 : ((x + .055) / 1.055) ** 2.4);
    return .2126 * v[0] + .7152 * v[1] + .0722 * v[2];
  };
  const ground = e => {
    for (; e; e = e.parentElement) {
      const c = getComputedStyle(e).backgroundColor;
      if (!c.endsWith(', 0)')) return c;
    }
    return 'rgb(255, 255, 255)';
  };
  let least = 99;
  for (const e of document.querySelectorAll('p,li,a,td,th,h1,h2,h3,code,figcaption')) {
    if (!e.textContent.trim() || e.classList.contains('skip')) continue;
    const a = luminance(getComputedStyle(e).color), b = luminance(ground(e));
    least = Math.min(least, (Math.max(a, b) + .05) / (Math.min(a, b) + .05));
  }
  found.contrast = least;
  found.dark = matchMedia('(prefers-color-scheme: dark)').matches;
  document.body.textContent = '@@' + JSON.stringify(found) + '@@';
});
</script>)js";

std::string output_of(const std::string& command) {
  std::string out;
  FILE* pipe = popen(command.c_str(), "r");
  if (pipe == nullptr) return out;
  std::array<char, 4096> buffer{};
  for (std::size_t got = 0; (got = fread(buffer.data(), 1, buffer.size(), pipe)) > 0;)
    out.append(buffer.data(), got);
  pclose(pipe);
  return out;
}

nlohmann::json asked_in_browser(const std::string& path, const std::string& options) {
  const std::string dom = output_of(
      "timeout 60 chromium --headless --no-sandbox --disable-gpu --virtual-time-budget=5000 --dump-dom " +
      options + " 'file://" + path + "' 2>/dev/null");
  // The last two marks: the script itself has others.
  const std::size_t end = dom.rfind("@@");
  const std::size_t begin = end == std::string::npos || end == 0 ? end : dom.rfind("@@", end - 1);
  if (begin == std::string::npos) return {};
  std::string json = dom.substr(begin + 2, end - begin - 2);
  for (const auto& [entity, sign] : {std::pair("&lt;", "<"), {"&gt;", ">"}, {"&amp;", "&"}}) {
    for (std::size_t at = 0; (at = json.find(entity, at)) != std::string::npos; ++at)
      json.replace(at, std::string(entity).size(), sign);
  }
  return nlohmann::json::parse(json);
}

class Report : public testing::Test {
 protected:
  void SetUp() override {
    ASSERT_EQ(run_program(folder_, {"demo"}).code, 0);
    page_ = folder_.read("opensum-demo/results/report.html");
    ASSERT_FALSE(page_.empty());
  }

  TempFolder folder_;
  std::string page_;
};

TEST_F(Report, NeedsNothingButItself) {
  EXPECT_EQ(page_.find("<script"), std::string::npos);
  EXPECT_EQ(page_.find("<link"), std::string::npos);
  EXPECT_EQ(page_.find("<img"), std::string::npos);
  EXPECT_EQ(page_.find("@import"), std::string::npos);
  // Whatever looks like an address names a standard, or a place on the page itself.
  for (std::size_t at = 0; (at = page_.find("://", at)) != std::string::npos; ++at)
    EXPECT_EQ(page_.substr(at, 13), "://www.w3.org") << page_.substr(at, 40);
  std::size_t links = 0;
  for (std::size_t at = 0; (at = page_.find("href=\"", at)) != std::string::npos; ++links) {
    at += 6;
    EXPECT_EQ(page_.at(at), '#') << page_.substr(at, 40);
  }
  EXPECT_GT(links, 0U);
}

TEST_F(Report, SaysEverythingThatTheRunSays) {
  for (const char* words :
       {"Plate cooler on the bench", "<h2 id=\"figures\">", "<h2 id=\"fits\">", "<h2 id=\"claims\">",
        "<h2 id=\"sheets\">", "<h2 id=\"equations\">", "<h2 id=\"nulls\">", "<h2 id=\"methods\">",
        "<h2 id=\"record\">", "the bath is hotter than the inlet",
        "flow * water.Density * water.Heat_capacity * rise", "<mfrac>", "<msub>", "SHA-256"}) {
    EXPECT_NE(page_.find(words), std::string::npos) << words;
  }
  const std::size_t methods = page_.find("<blockquote>");
  ASSERT_NE(methods, std::string::npos);
  const std::string paragraph = page_.substr(methods, page_.find("</blockquote>") - methods);
  for (const char* words :
       {"24 rows of day1", "Coolant flow (L/min)",
        "heat duty (kW) was the product of the coolant flow, the density from water, the heat capacity from "
        "water "
        "and the temperature rise (equation 5)",
        "the mean of the outlet temperature A to the outlet temperature C, of those that were known, at "
        "least 2",
        "interpolated linearly in mean temperature (found for 23 of 24 rows of day1 and 13 of 13 rows of "
        "day2)",
        "A power function (factor a, exponent b) was fitted to heat duty against coolant flow",
        "for day1 a = 2.933(35) kW and b = 0.6049(47) from 23 points"}) {
    EXPECT_NE(paragraph.find(words), std::string::npos) << words << " in\n" << paragraph;
  }
}

TEST_F(Report, IsReadableInABrowserWideNarrowAndDark) {
  std::string asked = page_;
  asked.insert(asked.find("</head>"), kQuestions);
  folder_.write("asked.html", asked);
  const std::string path = folder_.path("asked.html");
  for (const auto& [options, dark] :
       {std::pair("--window-size=1280,800", false),
        {"--window-size=360,740", false},
        {"--window-size=360,740 --blink-settings=preferredColorScheme=0", true}}) {
    const nlohmann::json found = asked_in_browser(path, options);
    ASSERT_TRUE(found.contains("faults")) << "the browser gave no answer";
    EXPECT_EQ(found["faults"].dump(), "[]") << options;
    EXPECT_EQ(found["loaded"].dump(), "[]") << options;
    EXPECT_LE(found["overflow"].get<double>(), 0) << options << ", " << found["width"];
    EXPECT_GE(found["contrast"].get<double>(), 4.5) << options;
    EXPECT_EQ(found["dark"].get<bool>(), dark) << options;
  }
}

}  // namespace
}  // namespace opensum
