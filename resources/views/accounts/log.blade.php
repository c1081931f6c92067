<x-layouts.house title="Log of the installation">
  <div class="head">
    <div>
      <h1>Log of the installation</h1>
      <p>Logins and those refused, accounts and links. What is done in a migration is read there, by its own people.</p>
    </div>
  </div>
  <x-log :$entries :$filter :$who :$older :$at />
</x-layouts.house>
