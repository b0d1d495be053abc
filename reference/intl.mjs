// Writes dates and numbers as the Unicode CLDR data in Node's Intl has them for many languages, for tests that read
// them back: lines of "date<TAB>locale<TAB>1987-03-09<TAB>9 mars 1987" and "number<TAB>locale<TAB>-1234.5<TAB>-1 234,5".
const locales = ["en-GB", "en-US", "en-IN", "de", "de-CH", "fr", "fr-CH", "es", "it", "pt", "nl", "da", "sv", "nb", "fi", "is", "pl", "cs", "ro", "hu", "tr", "ca", "et", "sk", "ru", "uk", "el"];
const line = (...cells) => console.log(cells.join("\t"));
for (const locale of locales) {
  for (const year of [1931, 1987, 2031]) {
    for (let month = 0; month < 12; month++) {
      const at = new Date(Date.UTC(year, month, month + 9));
      const iso = at.toISOString().slice(0, 10);
      const written = new Set();
      for (const style of ["long", "medium"]) written.add(new Intl.DateTimeFormat(locale, { dateStyle: style, timeZone: "UTC" }).format(at));
      for (const text of written) line("date", locale, iso, text);
      line("figures", locale, iso, new Intl.DateTimeFormat(locale, { day: "2-digit", month: "2-digit", year: "numeric", timeZone: "UTC" }).format(at));
    }
  }
  for (const value of [0.5, 7, 12.25, 987.6, 1234567.5, -42.75, -98765.25, 123456789, 1e7 + 0.125]) {
    line("number", locale, value, new Intl.NumberFormat(locale, { maximumFractionDigits: 3 }).format(value));
    line("kilogram", locale, value, new Intl.NumberFormat(locale, { maximumFractionDigits: 3, style: "unit", unit: "kilogram" }).format(value));
    for (const currency of ["EUR", "GBP"])
      line(currency, locale, value.toFixed(2), new Intl.NumberFormat(locale, { style: "currency", currency, currencySign: "accounting" }).format(value));
  }
}
