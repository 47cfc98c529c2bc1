// The physical constants that every study knows as codata.SYMBOL: CODATA 2022 recommended values (exact ones
// of the SI in full) and the standard acceleration and atmosphere (3rd and 10th CGPM).
#include <array>

#include "units/catalogue.h"

namespace opensum {
namespace {

constexpr std::array kConstants = {
    CatalogueConstant{"c", "299792458", "m/s", "speed of light in vacuum"},
    CatalogueConstant{"h", "6.62607015e-34", "J s", "Planck constant", true},
    CatalogueConstant{"hbar", "1.0545718176461565e-34", "J s", "reduced Planck constant"},
    CatalogueConstant{"e", "1.602176634e-19", "C", "elementary charge"},
    CatalogueConstant{"k_B", "1.380649e-23", "J/K", "Boltzmann constant"},
    CatalogueConstant{"N_A", "6.02214076e23", "1/mol", "Avogadro constant"},
    CatalogueConstant{"R", "8.31446261815324", "J/(mol K)", "molar gas constant"},
    CatalogueConstant{"F", "96485.33212331001", "C/mol", "Faraday constant"},
    CatalogueConstant{"sigma", "5.6703744191844294e-8", "W/(m^2 K^4)", "Stefan-Boltzmann constant"},
    CatalogueConstant{"G", "6.67430e-11", "m^3/(kg s^2)", "Newtonian constant of gravitation"},
    CatalogueConstant{"g_n", "9.80665", "m/s^2", "standard acceleration of gravity"},
    CatalogueConstant{"atm", "101325", "Pa", "standard atmosphere"},
    CatalogueConstant{"V_m", "0.02271095464148079", "m^3/mol",
                      "molar volume of ideal gas (273.15 K, 100 kPa)"},
    CatalogueConstant{"m_e", "9.1093837139e-31", "kg", "electron mass"},
    CatalogueConstant{"m_p", "1.67262192595e-27", "kg", "proton mass"},
    CatalogueConstant{"m_n", "1.67492750056e-27", "kg", "neutron mass"},
    CatalogueConstant{"m_u", "1.66053906892e-27", "kg", "atomic mass constant"},
    CatalogueConstant{"a_0", "5.29177210544e-11", "m", "Bohr radius"},
    CatalogueConstant{"R_inf", "10973731.568157", "1/m", "Rydberg constant"},
    CatalogueConstant{"alpha", "7.2973525643e-3", "1", "fine-structure constant"},
    CatalogueConstant{"epsilon_0", "8.8541878188e-12", "F/m", "vacuum electric permittivity"},
    CatalogueConstant{"mu_0", "1.25663706127e-6", "N/A^2", "vacuum magnetic permeability"},
    CatalogueConstant{"mu_B", "9.2740100657e-24", "J/T", "Bohr magneton"},
    CatalogueConstant{"K_J", "483597.8484169836e9", "Hz/V", "Josephson constant"},
    CatalogueConstant{"R_K", "25812.80745930450", "Ω", "von Klitzing constant"},
    CatalogueConstant{"b_wien", "2.897771955185172e-3", "m K", "Wien displacement constant"},
};

}  // namespace

std::span<const CatalogueConstant> catalogue_constants() { return kConstants; }

}  // namespace opensum
