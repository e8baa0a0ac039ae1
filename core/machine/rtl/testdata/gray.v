// A counter in Gray's code by functions, and its way back, which a register checks.
module top(input clk, input hold, output [9:0] code, output reg wrong);
  function [9:0] gray(input [9:0] n);
    gray = n ^ (n >> 1);
  endfunction
  function [9:0] back(input [9:0] g);
    integer k;
    begin
      back[9] = g[9];
      for (k = 8; k >= 0; k = k - 1) back[k] = back[k + 1] ^ g[k];
    end
  endfunction
  reg [9:0] n = 0;
  reg [6:0] div = 0;
  initial wrong = 0;
  always @(posedge clk) begin
    div <= hold ? div : div + 1'b1;
    if (&div && !hold) n <= n + 1'b1;
    if (back(code) != n) wrong <= 1;
  end
  assign code = gray(n);
endmodule
