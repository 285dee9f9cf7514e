import type { Site } from '../model/schema';

/** Places to choose a site from without a network: name, latitude, longitude in degrees (rounded, from memory), elevation in metres. */
const CITIES: readonly [string, number, number, number][] = [
  ['Reykjavík', 64.15, -21.94, 15], ['Tromsø', 69.65, 18.96, 10], ['Trondheim', 63.43, 10.4, 10], ['Bergen', 60.39, 5.32, 5], ['Oslo', 59.91, 10.75, 23],
  ['Stockholm', 59.33, 18.07, 28], ['Gothenburg', 57.71, 11.97, 12], ['Malmö', 55.6, 13, 12], ['Copenhagen', 55.68, 12.57, 5], ['Aarhus', 56.16, 10.2, 10],
  ['Helsinki', 60.17, 24.94, 10], ['Tampere', 61.5, 23.76, 114], ['Tallinn', 59.44, 24.75, 9], ['Riga', 56.95, 24.11, 6], ['Vilnius', 54.69, 25.28, 112],
  ['Edinburgh', 55.95, -3.19, 47], ['Glasgow', 55.86, -4.25, 40], ['Inverness', 57.48, -4.22, 15], ['Belfast', 54.6, -5.93, 4], ['Dublin', 53.35, -6.26, 8],
  ['Manchester', 53.48, -2.24, 38], ['Birmingham', 52.49, -1.89, 140], ['London', 51.51, -0.13, 11], ['Cardiff', 51.48, -3.18, 10], ['Amsterdam', 52.37, 4.9, -2],
  ['Rotterdam', 51.92, 4.48, 0], ['Brussels', 50.85, 4.35, 13], ['Antwerp', 51.22, 4.4, 7], ['Luxembourg', 49.61, 6.13, 300], ['Paris', 48.86, 2.35, 35],
  ['Lyon', 45.76, 4.84, 173], ['Marseille', 43.3, 5.37, 12], ['Bordeaux', 44.84, -0.58, 6], ['Nantes', 47.22, -1.55, 8], ['Strasbourg', 48.57, 7.75, 142],
  ['Hamburg', 53.55, 9.99, 6], ['Bremen', 53.08, 8.8, 12], ['Berlin', 52.52, 13.41, 34], ['Leipzig', 51.34, 12.37, 113], ['Dresden', 51.05, 13.74, 113],
  ['Cologne', 50.94, 6.96, 37], ['Frankfurt', 50.11, 8.68, 112], ['Stuttgart', 48.78, 9.18, 245], ['Munich', 48.14, 11.58, 519], ['Karlsruhe', 49.01, 8.4, 115],
  ['Zürich', 47.37, 8.54, 408], ['Bern', 46.95, 7.45, 540], ['Geneva', 46.2, 6.14, 375], ['Basel', 47.56, 7.59, 260], ['Vienna', 48.21, 16.37, 171],
  ['Graz', 47.07, 15.44, 353], ['Innsbruck', 47.27, 11.39, 574], ['Ljubljana', 46.06, 14.51, 295], ['Zagreb', 45.82, 15.98, 122], ['Prague', 50.08, 14.44, 200],
  ['Brno', 49.2, 16.61, 237], ['Bratislava', 48.15, 17.11, 134], ['Budapest', 47.5, 19.04, 102], ['Warsaw', 52.23, 21.01, 113], ['Kraków', 50.06, 19.94, 219],
  ['Gdańsk', 54.35, 18.65, 7], ['Bucharest', 44.43, 26.1, 70], ['Sofia', 42.7, 23.32, 550], ['Belgrade', 44.79, 20.45, 117], ['Athens', 37.98, 23.73, 70],
  ['Thessaloniki', 40.64, 22.94, 10], ['Rome', 41.9, 12.5, 21], ['Milan', 45.46, 9.19, 120], ['Turin', 45.07, 7.69, 239], ['Venice', 45.44, 12.32, 1],
  ['Naples', 40.85, 14.27, 17], ['Palermo', 38.12, 13.36, 14], ['Madrid', 40.42, -3.7, 667], ['Barcelona', 41.39, 2.17, 12], ['Valencia', 39.47, -0.38, 15],
  ['Seville', 37.39, -5.98, 7], ['Bilbao', 43.26, -2.93, 19], ['Lisbon', 38.72, -9.14, 45], ['Porto', 41.15, -8.61, 80], ['Valletta', 35.9, 14.51, 56],
  ['Istanbul', 41.01, 28.98, 39], ['Ankara', 39.93, 32.86, 938], ['Kyiv', 50.45, 30.52, 179], ['Tbilisi', 41.72, 44.83, 490], ['Tel Aviv', 32.08, 34.78, 5],
  ['Cairo', 30.04, 31.24, 23], ['Casablanca', 33.57, -7.59, 27], ['Tunis', 36.81, 10.18, 4], ['Lagos', 6.52, 3.38, 41], ['Accra', 5.6, -0.19, 61],
  ['Nairobi', -1.29, 36.82, 1795], ['Addis Ababa', 9.03, 38.74, 2355], ['Johannesburg', -26.2, 28.05, 1753], ['Cape Town', -33.92, 18.42, 25], ['Dubai', 25.2, 55.27, 5],
  ['Doha', 25.29, 51.53, 10], ['Riyadh', 24.71, 46.68, 612], ['Tehran', 35.69, 51.39, 1189], ['Karachi', 24.86, 67, 8], ['Delhi', 28.61, 77.21, 216],
  ['Mumbai', 19.08, 72.88, 14], ['Bengaluru', 12.97, 77.59, 920], ['Kathmandu', 27.72, 85.32, 1400], ['Dhaka', 23.81, 90.41, 4], ['Bangkok', 13.76, 100.5, 2],
  ['Hanoi', 21.03, 105.85, 16], ['Singapore', 1.35, 103.82, 15], ['Kuala Lumpur', 3.14, 101.69, 66], ['Jakarta', -6.21, 106.85, 8], ['Manila', 14.6, 120.98, 16],
  ['Hong Kong', 22.32, 114.17, 10], ['Shanghai', 31.23, 121.47, 4], ['Beijing', 39.9, 116.41, 44], ['Taipei', 25.03, 121.57, 9], ['Seoul', 37.57, 126.98, 38],
  ['Tokyo', 35.68, 139.69, 40], ['Osaka', 34.69, 135.5, 5], ['Sapporo', 43.06, 141.35, 29], ['Perth', -31.95, 115.86, 31], ['Adelaide', -34.93, 138.6, 50],
  ['Melbourne', -37.81, 144.96, 31], ['Sydney', -33.87, 151.21, 25], ['Brisbane', -27.47, 153.03, 28], ['Auckland', -36.85, 174.76, 40], ['Wellington', -41.29, 174.78, 12],
  ['Honolulu', 21.31, -157.86, 5], ['Anchorage', 61.22, -149.9, 31], ['Vancouver', 49.28, -123.12, 70], ['Seattle', 47.61, -122.33, 53], ['San Francisco', 37.77, -122.42, 16],
  ['Los Angeles', 34.05, -118.24, 93], ['Denver', 39.74, -104.99, 1609], ['Phoenix', 33.45, -112.07, 331], ['Dallas', 32.78, -96.8, 131], ['Chicago', 41.88, -87.63, 180],
  ['Toronto', 43.65, -79.38, 76], ['Montréal', 45.5, -73.57, 36], ['St John’s', 47.56, -52.71, 60], ['Boston', 42.36, -71.06, 14], ['New York', 40.71, -74.01, 10],
  ['Washington', 38.91, -77.04, 7], ['Atlanta', 33.75, -84.39, 320], ['Miami', 25.76, -80.19, 2], ['Mexico City', 19.43, -99.13, 2240], ['Havana', 23.11, -82.37, 59],
  ['Bogotá', 4.71, -74.07, 2640], ['Quito', -0.18, -78.47, 2850], ['Lima', -12.05, -77.04, 154], ['La Paz', -16.49, -68.12, 3640], ['Santiago', -33.45, -70.67, 570],
  ['Buenos Aires', -34.6, -58.38, 25], ['Montevideo', -34.9, -56.16, 43], ['São Paulo', -23.55, -46.63, 760], ['Rio de Janeiro', -22.91, -43.17, 5], ['Ushuaia', -54.8, -68.3, 23],
]; // prettier-ignore

const fold = (text: string) => text.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase();

/** Cities whose name begins with, then those that contain, the text; accents do not matter. */
export function findCities(text: string, limit = 8): Site[] {
  const wanted = fold(text.trim());
  if (!wanted) return [];
  const begins = CITIES.filter(([name]) => fold(name).startsWith(wanted));
  const contains = CITIES.filter(([name]) => !fold(name).startsWith(wanted) && fold(name).includes(wanted));
  return [...begins, ...contains]
    .slice(0, limit)
    .map(([name, latitudeDeg, longitudeDeg, elevationM]) => ({ name, latitudeDeg, longitudeDeg, elevationM, trueNorthDeg: 0 }));
}
