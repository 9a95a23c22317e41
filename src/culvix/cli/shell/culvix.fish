function _shtab_culvix_scan
  set -g _shtab_culvix_cmdpath ''
  set -g _shtab_culvix_npos 0
  set -l tokens (commandline -opc)
  set -e tokens[1]
  set -l expect_value 0
  for t in $tokens
    if test $expect_value -eq 1
      set expect_value 0
      continue
    end
    switch "$t"
      case '--*=*'
        continue
      case '-*'
        if contains -- $t $_shtab_culvix_opts_with_value
          set expect_value 1
        end
        continue
      case '*'
        if test $_shtab_culvix_npos -eq 0
          set -l candidate $t
          if test -n "$_shtab_culvix_cmdpath"
            set candidate "$_shtab_culvix_cmdpath $t"
          end
          if contains -- $candidate $_shtab_culvix_commands
            set -g _shtab_culvix_cmdpath $candidate
            continue
          end
        end
        set -g _shtab_culvix_npos (math $_shtab_culvix_npos + 1)
    end
  end
end

function _shtab_culvix_using
  _shtab_culvix_scan
  test "$_shtab_culvix_cmdpath" = "$argv"
end

set -g _shtab_culvix_commands inspect profile report clean recipe compare tables whole sample apply verify desktop demo
set -g _shtab_culvix_opts_with_value --address --alpha --beyond --by --cells --columns --decimal --dictionary --encoding --given --header-lines --jobs --key --leave-last --level --log --missing --not-missing --only --output --part --quantile-type --query --query-file --ragged --recipe --repeats --rows --sample --sample-seed --seconds --seed --size --source --study --table --with -o

complete -c culvix -e
complete -c culvix -f

complete -c culvix -n _shtab_culvix_using -s h -l help -d 'show this help message and exit'
complete -c culvix -n _shtab_culvix_using -l recipe -x -d 'run this recipe on the table before it is shown'
complete -c culvix -n _shtab_culvix_using -l version -d 'show program'"'"'s version number and exit'
complete -c culvix -n '_shtab_culvix_using; and test $_shtab_culvix_npos -eq 1' -a inspect -d 'Write what reading FILE found, before anything is settled (format culvix-intake/2).'
complete -c culvix -n '_shtab_culvix_using inspect' -s h -l help -d 'show this help message and exit'
complete -c culvix -n '_shtab_culvix_using inspect' -s o -l output -x -d 'file to write'
complete -c culvix -n '_shtab_culvix_using inspect' -l part -x -d 'the sheet of a spreadsheet, or the table of a database'
complete -c culvix -n '_shtab_culvix_using inspect' -l cells -x -d 'the range of a sheet to read'
complete -c culvix -n '_shtab_culvix_using inspect' -l only -x -d 'read these columns only'
complete -c culvix -n '_shtab_culvix_using inspect' -l rows -x -d 'read these rows only, counted from 1'
complete -c culvix -n '_shtab_culvix_using inspect' -l sample -x -d 'read a random sample of N rows'
complete -c culvix -n '_shtab_culvix_using inspect' -l sample-seed -x -d 'seed of the sample (default 1)'
complete -c culvix -n '_shtab_culvix_using inspect' -l ragged -xka "fill leave-out" -d 'fill lines that are too short with missing cells, or leave lines that do not fit out (default: refuse)'
complete -c culvix -n '_shtab_culvix_using inspect' -l leave-last -x -d 'leave the last N rows out (a total)'
complete -c culvix -n '_shtab_culvix_using inspect' -l header-lines -x -d 'names stand in N lines (default: judged)'
complete -c culvix -n '_shtab_culvix_using inspect' -l decimal -xka "point comma" -d 'the decimal mark of a text (default: judged)'
complete -c culvix -n '_shtab_culvix_using inspect' -l not-missing -x -d 'a token such as NA that is a value here, in every column; repeatable'
complete -c culvix -n '_shtab_culvix_using inspect' -l encoding -x -d 'the encoding of a text (default: guessed)'
complete -c culvix -n '_shtab_culvix_using inspect' -l dictionary -x -d 'what is said of the columns (a Table Schema)'
complete -c culvix -n '_shtab_culvix_using inspect' -l key -x -d 'look for rows that repeat these columns'
complete -c culvix -n '_shtab_culvix_using; and test $_shtab_culvix_npos -eq 1' -a profile -d 'Write every number of the core for FILE as a JSON document (format culvix-profile/2).'
complete -c culvix -n '_shtab_culvix_using profile' -s h -l help -d 'show this help message and exit'
complete -c culvix -n '_shtab_culvix_using profile' -s o -l output -x -d 'file to write'
complete -c culvix -n '_shtab_culvix_using profile' -l alpha -x -d 'level of the tests (default 0.05)'
complete -c culvix -n '_shtab_culvix_using profile' -l quantile-type -x -d 'definition of quantiles (default 7, inclusive)'
complete -c culvix -n '_shtab_culvix_using profile' -l missing -x -d 'a cell text that means missing; repeatable'
complete -c culvix -n '_shtab_culvix_using profile' -l part -x -d 'the sheet of a spreadsheet, or the table of a database'
complete -c culvix -n '_shtab_culvix_using profile' -l cells -x -d 'the range of a sheet to read'
complete -c culvix -n '_shtab_culvix_using profile' -l only -x -d 'read these columns only'
complete -c culvix -n '_shtab_culvix_using profile' -l rows -x -d 'read these rows only, counted from 1'
complete -c culvix -n '_shtab_culvix_using profile' -l sample -x -d 'read a random sample of N rows'
complete -c culvix -n '_shtab_culvix_using profile' -l sample-seed -x -d 'seed of the sample (default 1)'
complete -c culvix -n '_shtab_culvix_using profile' -l ragged -xka "fill leave-out" -d 'fill lines that are too short with missing cells, or leave lines that do not fit out (default: refuse)'
complete -c culvix -n '_shtab_culvix_using profile' -l leave-last -x -d 'leave the last N rows out (a total)'
complete -c culvix -n '_shtab_culvix_using profile' -l header-lines -x -d 'names stand in N lines (default: judged)'
complete -c culvix -n '_shtab_culvix_using profile' -l decimal -xka "point comma" -d 'the decimal mark of a text (default: judged)'
complete -c culvix -n '_shtab_culvix_using profile' -l not-missing -x -d 'a token such as NA that is a value here, in every column; repeatable'
complete -c culvix -n '_shtab_culvix_using profile' -l encoding -x -d 'the encoding of a text (default: guessed)'
complete -c culvix -n '_shtab_culvix_using profile' -l dictionary -x -d 'what is said of the columns (a Table Schema)'
complete -c culvix -n '_shtab_culvix_using profile' -l columns -x -d 'profile these columns only'
complete -c culvix -n '_shtab_culvix_using profile' -l no-correlation -d 'leave the correlation matrices out'
complete -c culvix -n '_shtab_culvix_using profile' -l with -x -d 'add bootstrap, intervals, monte_carlo, transformations, unimodality, robust_correlation, distance_correlation, bootstrap_correlation or multivariate, or kendall for more than 100 000 rows; repeatable, or several with commas'
complete -c culvix -n '_shtab_culvix_using profile' -l by -x -d 'add outliers and correlations within the groups of COLUMN'
complete -c culvix -n '_shtab_culvix_using profile' -l given -x -d 'add correlations with these columns held fixed'
complete -c culvix -n '_shtab_culvix_using profile' -l seed -x -d 'seed of random figures (default 20260318)'
complete -c culvix -n '_shtab_culvix_using profile' -l repeats -x -d 'repeats of random figures (default: by figure)'
complete -c culvix -n '_shtab_culvix_using profile' -l jobs -x -d 'columns at a time'
complete -c culvix -n '_shtab_culvix_using; and test $_shtab_culvix_npos -eq 1' -a report -d 'Write the report of FILE, a table or a study, in the format that the ending of OUT says: one self-contained file (.html), pages (.pdf), for a word processor (.docx), Markdown with a folder of pictures (.md), or all its tables and figures as a spreadsheet (.xlsx).'
complete -c culvix -n '_shtab_culvix_using report' -s h -l help -d 'show this help message and exit'
complete -c culvix -n '_shtab_culvix_using report' -s o -l output -x -d 'file to write'
complete -c culvix -n '_shtab_culvix_using report' -l alpha -x -d 'level of the tests (default 0.05)'
complete -c culvix -n '_shtab_culvix_using report' -l quantile-type -x -d 'definition of quantiles (default 7, inclusive)'
complete -c culvix -n '_shtab_culvix_using report' -l missing -x -d 'a cell text that means missing; repeatable'
complete -c culvix -n '_shtab_culvix_using report' -l part -x -d 'the sheet of a spreadsheet, or the table of a database'
complete -c culvix -n '_shtab_culvix_using report' -l cells -x -d 'the range of a sheet to read'
complete -c culvix -n '_shtab_culvix_using report' -l only -x -d 'read these columns only'
complete -c culvix -n '_shtab_culvix_using report' -l rows -x -d 'read these rows only, counted from 1'
complete -c culvix -n '_shtab_culvix_using report' -l sample -x -d 'read a random sample of N rows'
complete -c culvix -n '_shtab_culvix_using report' -l sample-seed -x -d 'seed of the sample (default 1)'
complete -c culvix -n '_shtab_culvix_using report' -l ragged -xka "fill leave-out" -d 'fill lines that are too short with missing cells, or leave lines that do not fit out (default: refuse)'
complete -c culvix -n '_shtab_culvix_using report' -l leave-last -x -d 'leave the last N rows out (a total)'
complete -c culvix -n '_shtab_culvix_using report' -l header-lines -x -d 'names stand in N lines (default: judged)'
complete -c culvix -n '_shtab_culvix_using report' -l decimal -xka "point comma" -d 'the decimal mark of a text (default: judged)'
complete -c culvix -n '_shtab_culvix_using report' -l not-missing -x -d 'a token such as NA that is a value here, in every column; repeatable'
complete -c culvix -n '_shtab_culvix_using report' -l encoding -x -d 'the encoding of a text (default: guessed)'
complete -c culvix -n '_shtab_culvix_using report' -l dictionary -x -d 'what is said of the columns (a Table Schema)'
complete -c culvix -n '_shtab_culvix_using; and test $_shtab_culvix_npos -eq 1' -a clean -d 'Write the table of STUDY with its decisions applied: excluded rows left out, values excluded or treated as missing empty, corrected values as they are now. The first column is the row'"'"'s number in the source.'
complete -c culvix -n '_shtab_culvix_using clean' -s h -l help -d 'show this help message and exit'
complete -c culvix -n '_shtab_culvix_using clean' -s o -l output -x -d 'file to write'
complete -c culvix -n '_shtab_culvix_using clean' -l alpha -x -d 'level of the tests (default 0.05)'
complete -c culvix -n '_shtab_culvix_using clean' -l quantile-type -x -d 'definition of quantiles (default 7, inclusive)'
complete -c culvix -n '_shtab_culvix_using clean' -l missing -x -d 'a cell text that means missing; repeatable'
complete -c culvix -n '_shtab_culvix_using clean' -l part -x -d 'the sheet of a spreadsheet, or the table of a database'
complete -c culvix -n '_shtab_culvix_using clean' -l cells -x -d 'the range of a sheet to read'
complete -c culvix -n '_shtab_culvix_using clean' -l only -x -d 'read these columns only'
complete -c culvix -n '_shtab_culvix_using clean' -l rows -x -d 'read these rows only, counted from 1'
complete -c culvix -n '_shtab_culvix_using clean' -l sample -x -d 'read a random sample of N rows'
complete -c culvix -n '_shtab_culvix_using clean' -l sample-seed -x -d 'seed of the sample (default 1)'
complete -c culvix -n '_shtab_culvix_using clean' -l ragged -xka "fill leave-out" -d 'fill lines that are too short with missing cells, or leave lines that do not fit out (default: refuse)'
complete -c culvix -n '_shtab_culvix_using clean' -l leave-last -x -d 'leave the last N rows out (a total)'
complete -c culvix -n '_shtab_culvix_using clean' -l header-lines -x -d 'names stand in N lines (default: judged)'
complete -c culvix -n '_shtab_culvix_using clean' -l decimal -xka "point comma" -d 'the decimal mark of a text (default: judged)'
complete -c culvix -n '_shtab_culvix_using clean' -l not-missing -x -d 'a token such as NA that is a value here, in every column; repeatable'
complete -c culvix -n '_shtab_culvix_using clean' -l encoding -x -d 'the encoding of a text (default: guessed)'
complete -c culvix -n '_shtab_culvix_using clean' -l dictionary -x -d 'what is said of the columns (a Table Schema)'
complete -c culvix -n '_shtab_culvix_using clean' -l whole -d 'of a study of a sample: write the whole table it is one of (csv, parquet), as its engine applies the decisions made by rule or on rows that a key names'
complete -c culvix -n '_shtab_culvix_using clean' -l address -x -d 'where the whole lies now (default: as it was)'
complete -c culvix -n '_shtab_culvix_using clean' -l seconds -x -d 'how long one question to a server may take'
complete -c culvix -n '_shtab_culvix_using; and test $_shtab_culvix_npos -eq 1' -a recipe -d 'Write the recipe of STUDY: how its table was read and described, its conventions, columns worked out, marks and decisions, and what each column looked like. “culvix apply” runs it on another table.'
complete -c culvix -n '_shtab_culvix_using recipe' -s h -l help -d 'show this help message and exit'
complete -c culvix -n '_shtab_culvix_using recipe' -s o -l output -x -d 'file to write'
complete -c culvix -n '_shtab_culvix_using recipe' -l alpha -x -d 'level of the tests (default 0.05)'
complete -c culvix -n '_shtab_culvix_using recipe' -l quantile-type -x -d 'definition of quantiles (default 7, inclusive)'
complete -c culvix -n '_shtab_culvix_using recipe' -l missing -x -d 'a cell text that means missing; repeatable'
complete -c culvix -n '_shtab_culvix_using recipe' -l part -x -d 'the sheet of a spreadsheet, or the table of a database'
complete -c culvix -n '_shtab_culvix_using recipe' -l cells -x -d 'the range of a sheet to read'
complete -c culvix -n '_shtab_culvix_using recipe' -l only -x -d 'read these columns only'
complete -c culvix -n '_shtab_culvix_using recipe' -l rows -x -d 'read these rows only, counted from 1'
complete -c culvix -n '_shtab_culvix_using recipe' -l sample -x -d 'read a random sample of N rows'
complete -c culvix -n '_shtab_culvix_using recipe' -l sample-seed -x -d 'seed of the sample (default 1)'
complete -c culvix -n '_shtab_culvix_using recipe' -l ragged -xka "fill leave-out" -d 'fill lines that are too short with missing cells, or leave lines that do not fit out (default: refuse)'
complete -c culvix -n '_shtab_culvix_using recipe' -l leave-last -x -d 'leave the last N rows out (a total)'
complete -c culvix -n '_shtab_culvix_using recipe' -l header-lines -x -d 'names stand in N lines (default: judged)'
complete -c culvix -n '_shtab_culvix_using recipe' -l decimal -xka "point comma" -d 'the decimal mark of a text (default: judged)'
complete -c culvix -n '_shtab_culvix_using recipe' -l not-missing -x -d 'a token such as NA that is a value here, in every column; repeatable'
complete -c culvix -n '_shtab_culvix_using recipe' -l encoding -x -d 'the encoding of a text (default: guessed)'
complete -c culvix -n '_shtab_culvix_using recipe' -l dictionary -x -d 'what is said of the columns (a Table Schema)'
complete -c culvix -n '_shtab_culvix_using; and test $_shtab_culvix_npos -eq 1' -a compare -d 'Compare FILE with OTHER, last year'"'"'s table or the same one a month ago: columns matched, what has changed in each, and rows by a key (.json: format culvix-comparison/1; .html: to be read).'
complete -c culvix -n '_shtab_culvix_using compare' -s h -l help -d 'show this help message and exit'
complete -c culvix -n '_shtab_culvix_using compare' -s o -l output -x -d 'file to write: .json or .html'
complete -c culvix -n '_shtab_culvix_using compare' -l part -x -d 'the sheet of a spreadsheet, or the table of a database'
complete -c culvix -n '_shtab_culvix_using compare' -l cells -x -d 'the range of a sheet to read'
complete -c culvix -n '_shtab_culvix_using compare' -l only -x -d 'read these columns only'
complete -c culvix -n '_shtab_culvix_using compare' -l rows -x -d 'read these rows only, counted from 1'
complete -c culvix -n '_shtab_culvix_using compare' -l sample -x -d 'read a random sample of N rows'
complete -c culvix -n '_shtab_culvix_using compare' -l sample-seed -x -d 'seed of the sample (default 1)'
complete -c culvix -n '_shtab_culvix_using compare' -l ragged -xka "fill leave-out" -d 'fill lines that are too short with missing cells, or leave lines that do not fit out (default: refuse)'
complete -c culvix -n '_shtab_culvix_using compare' -l leave-last -x -d 'leave the last N rows out (a total)'
complete -c culvix -n '_shtab_culvix_using compare' -l header-lines -x -d 'names stand in N lines (default: judged)'
complete -c culvix -n '_shtab_culvix_using compare' -l decimal -xka "point comma" -d 'the decimal mark of a text (default: judged)'
complete -c culvix -n '_shtab_culvix_using compare' -l not-missing -x -d 'a token such as NA that is a value here, in every column; repeatable'
complete -c culvix -n '_shtab_culvix_using compare' -l encoding -x -d 'the encoding of a text (default: guessed)'
complete -c culvix -n '_shtab_culvix_using compare' -l dictionary -x -d 'what is said of the columns (a Table Schema)'
complete -c culvix -n '_shtab_culvix_using compare' -l key -x -d 'match rows by these columns'
complete -c culvix -n '_shtab_culvix_using compare' -l level -x -d 'what is told as more than chance (default 0.05)'
complete -c culvix -n '_shtab_culvix_using; and test $_shtab_culvix_npos -eq 1' -a tables -d 'List the tables and views of a server that may be read, with estimates of their rows and comments.'
complete -c culvix -n '_shtab_culvix_using tables' -s h -l help -d 'show this help message and exit'
complete -c culvix -n '_shtab_culvix_using; and test $_shtab_culvix_npos -eq 1' -a whole -d 'Survey a table of any size where it lies, in a server or in files that no memory holds (.json: format culvix-whole/1).'
complete -c culvix -n '_shtab_culvix_using whole' -s h -l help -d 'show this help message and exit'
complete -c culvix -n '_shtab_culvix_using whole' -l table -x -d 'the table or view of a server'
complete -c culvix -n '_shtab_culvix_using whole' -l query -x -d 'a query whose rows are the table; it can only read'
complete -c culvix -n '_shtab_culvix_using whole' -l query-file -x -d 'a file with such a query'
complete -c culvix -n '_shtab_culvix_using whole' -l seconds -x -d 'how long one question to a server may take'
complete -c culvix -n '_shtab_culvix_using whole' -s o -l output -x -d 'file to write'
complete -c culvix -n '_shtab_culvix_using whole' -l quantile-type -x -d 'definition of quantiles (default 7, inclusive)'
complete -c culvix -n '_shtab_culvix_using whole' -l study -x -d 'count how many rows of the whole each of its decisions by rule meets'
complete -c culvix -n '_shtab_culvix_using; and test $_shtab_culvix_npos -eq 1' -a sample -d 'Draw rows of a table of any size, the same ones for the same seed while the table is unchanged, and write them as a table that says what it is a sample of.'
complete -c culvix -n '_shtab_culvix_using sample' -s h -l help -d 'show this help message and exit'
complete -c culvix -n '_shtab_culvix_using sample' -l table -x -d 'the table or view of a server'
complete -c culvix -n '_shtab_culvix_using sample' -l query -x -d 'a query whose rows are the table; it can only read'
complete -c culvix -n '_shtab_culvix_using sample' -l query-file -x -d 'a file with such a query'
complete -c culvix -n '_shtab_culvix_using sample' -l seconds -x -d 'how long one question to a server may take'
complete -c culvix -n '_shtab_culvix_using sample' -s o -l output -x -d 'file to write'
complete -c culvix -n '_shtab_culvix_using sample' -l size -x -d 'how many rows (default 100000)'
complete -c culvix -n '_shtab_culvix_using sample' -l seed -x -d 'which ones (default 1)'
complete -c culvix -n '_shtab_culvix_using sample' -l whole -d 'survey the whole, too, and keep its figures in the file'
complete -c culvix -n '_shtab_culvix_using sample' -l by -x -d 'as many rows of each of its values'
complete -c culvix -n '_shtab_culvix_using sample' -l beyond -x -d 'write the rows of the whole with a value beyond the fences at 1.5 IQR, too (at most 100000)'
complete -c culvix -n '_shtab_culvix_using; and test $_shtab_culvix_npos -eq 1' -a apply -d 'Read FILE the way RECIPE says, describe it, make the recipe'"'"'s decisions again, and compare it with the table that the recipe was made with. Exit status 0: done; 3: done, but a person must look, for the reasons on standard error; 2: it cannot be done.'
complete -c culvix -n '_shtab_culvix_using apply' -s h -l help -d 'show this help message and exit'
complete -c culvix -n '_shtab_culvix_using apply' -s o -l output -x -d 'file to write; its ending says what: a study (.culvix), the report (.html, .pdf, .docx, .md), the profile document (.json) or the cleaned table (.csv, .parquet, .xlsx); repeatable'
complete -c culvix -n '_shtab_culvix_using apply' -l table -x -d 'the table or view of a server'
complete -c culvix -n '_shtab_culvix_using apply' -l query -x -d 'a query whose rows are the table; it can only read'
complete -c culvix -n '_shtab_culvix_using apply' -l query-file -x -d 'a file with such a query'
complete -c culvix -n '_shtab_culvix_using apply' -l seconds -x -d 'how long one question to a server may take'
complete -c culvix -n '_shtab_culvix_using apply' -l sample -x -d 'of a server or folder: file of the sample'
complete -c culvix -n '_shtab_culvix_using apply' -l size -x -d 'rows of the sample (default 100000)'
complete -c culvix -n '_shtab_culvix_using apply' -l seed -x -d 'which rows (default 1)'
complete -c culvix -n '_shtab_culvix_using apply' -l log -x -d 'write what was done, and what to look at, as data'
complete -c culvix -n '_shtab_culvix_using; and test $_shtab_culvix_npos -eq 1' -a verify -d 'Compute every figure of REPORT (HTML, PDF or DOCX) anew from the table it was made from, and compare it and the text with what is written. Exit status 0: all is the same; 3: something differs, each told in a line; 2: it cannot be done.'
complete -c culvix -n '_shtab_culvix_using verify' -s h -l help -d 'show this help message and exit'
complete -c culvix -n '_shtab_culvix_using verify' -l source -x -d 'the table, where it is no longer in its old place'
complete -c culvix -n '_shtab_culvix_using; and test $_shtab_culvix_npos -eq 1' -a desktop -d 'Put an entry for Culvix among the applications of this user, with its icon, the type of study files, completions for bash, zsh and fish, and the manual page; or take all of that away again.'
complete -c culvix -n '_shtab_culvix_using desktop' -s h -l help -d 'show this help message and exit'
complete -c culvix -n '_shtab_culvix_using desktop' -l install -d 'put the entry there'
complete -c culvix -n '_shtab_culvix_using desktop' -l remove -d 'take it away'
complete -c culvix -n '_shtab_culvix_using; and test $_shtab_culvix_npos -eq 1' -a demo -d 'Open the example study, or run it whole without a display. Its files come into culvix-demo/ here.'
complete -c culvix -n '_shtab_culvix_using demo' -s h -l help -d 'show this help message and exit'
