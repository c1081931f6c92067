<x-layouts.app :page="$page" title="Row {{ $journey['row'] }}">@include('rows.journey')</x-layouts.app>
