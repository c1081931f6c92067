<x-sources.extract :$page :$extract :$take :$latest show="columns"></x-sources.extract>
