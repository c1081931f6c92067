<x-layouts.app :page="$page" title="Row {{ $row }}">@include('mapping.record')</x-layouts.app>
