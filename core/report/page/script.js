// The search: rows without the words that are looked for are hidden. Without a script, all are there.
const form = document.querySelector('form.search');
const words = document.getElementById('words');
const hits = document.getElementById('hits');
const rows = [...document.querySelectorAll('.row')].map(row => [row, row.textContent.toLowerCase()]);
form.hidden = false;
form.addEventListener('submit', event => event.preventDefault());
words.addEventListener('input', () => {
  const wanted = words.value.toLowerCase().split(/\s+/).filter(word => word !== '');
  let found = 0;
  for (const [row, text] of rows) {
    row.hidden = !wanted.every(word => text.includes(word));
    found += row.hidden ? 0 : 1;
  }
  for (const table of document.querySelectorAll('table')) {
    const none = [...table.querySelectorAll('.row')].every(row => row.hidden);
    const region = table.parentElement;
    region.hidden = none;
    if (region.previousElementSibling?.tagName === 'H3') region.previousElementSibling.hidden = none;
  }
  for (const details of document.querySelectorAll('#findings details')) details.open = wanted.length > 0;
  hits.value = wanted.length === 0 ? '' : found === 1 ? '1 line' : found + ' lines';
});
