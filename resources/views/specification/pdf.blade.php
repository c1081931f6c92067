<style>
  h1 {
    font-size: 15pt;
  }

  h2 {
    font-size: 11.5pt;
  }

  p {
    font-size: 9pt;
  }

  td,
  th {
    font-size: 7.5pt;
  }

  code {
    font-family: dejavusansmono;
    font-size: 7pt;
  }
</style>
@include('specification.body')
